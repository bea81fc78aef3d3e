/** The `mark` command: the pictures of marks are worked out from the footage, and their mends take them off. */
import { mkdir } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { serialiseDocument } from '../core/document/document'
import { doubtAbout, wordsOfDoubt, type MarkTold } from '../core/document/markDoubts'
import { takeMarkOff, type MarkShownBy } from '../core/document/markTaken'
import { masksOfOthers } from '../core/evaluate/masks'
import { findTakenMark } from '../core/evaluate/takenMark'
import { applyChanges } from '../core/document/edits'
import type { Mend, MendRecord } from '../core/document/mend'
import { tracksById } from '../core/document/tracks'
import { samplesFromMark } from '../core/image/markPicture'
import { markToldBy } from '../core/plan/findMark'
import type { Clip } from '../core/shot/clip'
import { markPng } from '../server/media/markPicture.server'
import { createCache } from '../workers/cache'
import { mattesBeside } from './picturesBeside'
import { onFootage, readDocument, requireGoing, writeFileWhole, writeWhole } from './plate'
import { readScene } from './readScene'

export interface MarkOptions {
  readonly plate: string
  readonly mends: string
  readonly scene?: string
  readonly out: string
  readonly rate: string
}

export interface MarkSummary {
  readonly marks: readonly ({
    readonly mend: string
    readonly picture: string
    /** Frames on which its course begins, bends and ends; none for one that rests. */
    readonly legs: readonly number[]
    readonly denseShare: number
    /** What shows best what is under it: it undone, that weighed with other frames, or those alone. */
    readonly shownBy: MarkShownBy
  } & MarkTold)[]
  readonly warnings: readonly string[]
  readonly out: string
}

/** Takes off what mark mends were drawn round; pictures are written to `marks/` beside the result. @throws CliError with the exit code. */
export async function takeMarks(
  options: MarkOptions,
  say: (text: string) => void,
  signal: AbortSignal,
): Promise<MarkSummary> {
  const document = await readDocument(options.mends)
  const scene = options.scene ? await readScene(options.scene) : null
  const { firstFrame, frameCount, frameRate, width, height } = document.plate
  const tracks = tracksById(document.tracks)
  const plate = { width, height, firstFrame, lastFrame: firstFrame + frameCount - 1 }
  const shot = { mends: document.mends, tracks, plate, scene }
  const folder = join(dirname(options.out), 'marks')
  const marks: MarkSummary['marks'][number][] = []
  const warnings: string[] = []
  const context = {
    shouldStop: () => signal.aborted,
    onProgress: (done: number, total: number) => say(`\rlooking at the mark, ${done} of ${total} frames  `),
  }
  const takenOff = await onFootage(
    options,
    { firstFrame, frameRate },
    say,
    signal,
    async ({ source, shape }) => {
      const clip: Clip = {
        plate: shape,
        readRect: source.readRect,
        readMatte: mattesBeside(options.mends, signal),
        readStill: async () => null,
        readMark: async () => null,
        cache: createCache(),
      }
      const done: Mend[] = []
      for (const [stackIndex, mend] of document.mends.entries()) {
        let record: MendRecord = { ...mend, stackIndex }
        const area = mend.areas.find((one) => one.role === 'cover')
        if (mend.kind === 'mark' && area && area.shape !== 'matte' && area.shape !== 'path') {
          const found = await findTakenMark(
            shot,
            mend,
            area,
            clip,
            context,
            masksOfOthers(shot, mend.id, clip),
          )
          requireGoing(signal)
          if (!found) warnings.push(`${mend.name}: no frame shows the mark. It stays as it was drawn.`)
          else {
            const { picture, legs, denseShare } = found
            await mkdir(folder, { recursive: true })
            const file = `${mend.id}.png`
            await writeFileWhole(join(folder, file), await markPng(samplesFromMark(picture)))
            const edit = takeMarkOff(record, tracks, { ...found, name: `marks/${file}` })
            record = applyChanges(new Map([[record.id, record]]), edit.changes).get(record.id) ?? record
            const told = markToldBy(found)
            const doubt = doubtAbout(found, told)
            if (doubt) warnings.push(`${mend.name}: ${wordsOfDoubt(doubt, told)}`)
            marks.push({
              mend: mend.name,
              picture: `marks/${file}`,
              legs: legs.map(({ frame }) => frame),
              denseShare,
              shownBy: found.shownBy,
              ...told,
            })
          }
        }
        const { stackIndex: _stackIndex, ...rest } = record
        done.push(rest)
      }
      return done
    },
  )
  await writeWhole(options.out, serialiseDocument({ ...document, mends: takenOff }))
  return { marks, warnings, out: options.out }
}
