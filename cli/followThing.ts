/** The `thing` command: what objects were drawn round is followed between the frames on which it was drawn, and beyond. */
import { randomUUID } from 'node:crypto'
import { serialiseDocument } from '../core/document/document'
import { followThingFound, isOfThing } from '../core/document/followedThing'
import { roams } from '../core/document/kinds'
import type { MendRecord } from '../core/document/mend'
import { tracksById, UNSURE_BELOW } from '../core/document/tracks'
import { findThing } from '../core/plan/findThing'
import { onFootage, readDocument, requireGoing, writeWhole } from './plate'
import { readScene } from './readScene'

export interface ThingOptions {
  readonly plate: string
  readonly mends: string
  readonly scene: string
  readonly out: string
  readonly rate: string
}

export interface ThingSummary {
  /** Areas that go with their thing now. */
  readonly areas: number
  /** Frames on which a thing was found, of all that were looked at. */
  readonly sureShare: number
  readonly warnings: readonly string[]
  readonly out: string
}

/** Follows the things of all mends of objects and shadows that are keyed and follow nothing. @throws CliError with the exit code. */
export async function followThings(
  { plate, mends, scene: path, out, rate }: ThingOptions,
  say: (text: string) => void,
  signal: AbortSignal,
): Promise<ThingSummary> {
  const document = await readDocument(mends)
  const scene = await readScene(path)
  const { firstFrame, frameCount, frameRate, width, height } = document.plate
  const tracks = new Map(tracksById(document.tracks))
  const shape = { width, height, firstFrame, lastFrame: firstFrame + frameCount - 1 }
  const shot = { mends: document.mends, tracks, plate: shape, scene }
  const warnings: string[] = []
  let [areas, frames, sure] = [0, 0, 0]
  const context = {
    shouldStop: () => signal.aborted,
    onProgress: (done: number, total: number) => say(`\rfollowing, ${done} of ${total} steps  `),
  }
  const followed = await onFootage(
    { plate, rate },
    { firstFrame, frameRate },
    say,
    signal,
    async ({ source }) => {
      const done = []
      for (const [stackIndex, mend] of document.mends.entries()) {
        let record: MendRecord = { ...mend, stackIndex }
        for (const area of mend.areas) {
          if (!roams(mend.kind) || !isOfThing(area) || area.follow || area.role !== 'cover') continue
          const found = await findThing(shot, scene, mend, area, source, context)
          requireGoing(signal)
          if (!found.ok) {
            warnings.push(
              `${mend.name}: it hides the same background on all frames, and cannot be told from it. It stays as it was drawn.`,
            )
            continue
          }
          const state = { records: new Map(), tracks }
          const edit = followThingFound(state, record, area, shape, found.frames, randomUUID())
          record = edit.changes[0]!.after!
          const track = edit.tracks[0]!.after!
          tracks.set(track.id, track)
          areas++
          frames += found.frames.length
          const unsure = found.frames.filter((one) => one.sure < UNSURE_BELOW)
          sure += found.frames.length - unsure.length
          if (unsure.length > 0)
            warnings.push(
              `${mend.name}: not sure where it is on ${unsure.length} frames, the first ${unsure[0]!.frame}.`,
            )
        }
        const { stackIndex: _stackIndex, ...rest } = record
        done.push(rest)
      }
      return done
    },
  )
  await writeWhole(out, serialiseDocument({ ...document, mends: followed, tracks: [...tracks.values()] }))
  return { areas, sureShare: frames === 0 ? 1 : sure / frames, warnings, out }
}
