/** The `follow` command: areas that rest are carried by the background, as the scene moves under them. */
import { randomUUID } from 'node:crypto'
import { ALL_PARTS } from '../core/document/basics'
import { setFollow } from '../core/document/areaCommands'
import { serialiseDocument } from '../core/document/document'
import type { MendRecord } from '../core/document/mend'
import { tracksById, type Track } from '../core/document/tracks'
import { sceneTrack } from '../core/plan/sceneTrack'
import { readDocument, writeWhole } from './plate'
import { readScene } from './readScene'

export interface FollowOptions {
  readonly mends: string
  readonly scene: string
  readonly out: string
}

export interface FollowSummary {
  /** Areas that follow the background now. */
  readonly areas: number
  readonly warnings: readonly string[]
  readonly out: string
}

/** Areas with one key that follow nothing are taken along from the frame of that key. @throws CliError with the exit code. */
export async function followScene({ mends, scene: path, out }: FollowOptions): Promise<FollowSummary> {
  const document = await readDocument(mends)
  const scene = await readScene(path)
  const tracks = new Map(tracksById(document.tracks))
  const { width, height, firstFrame, frameCount } = document.plate
  const plate = { width, height, firstFrame, lastFrame: firstFrame + frameCount - 1 }
  const warnings: string[] = []
  let areas = 0
  const followed = document.mends.map((mend, index) => {
    let record: MendRecord = { ...mend, stackIndex: index }
    for (const area of mend.areas) {
      if (area.shape === 'matte' || area.follow) continue
      if (area.keys.length > 1) {
        warnings.push(`${mend.name}: an area with keys on several frames goes as they say.`)
        continue
      }
      const { frame } = area.keys[0]!
      const shot = { mends: document.mends, tracks, plate, scene }
      const track: Track | null = sceneTrack(randomUUID(), `Background, ${mend.name}`, area, shot, frame)
      if (!track) continue
      tracks.set(track.id, track)
      const state = { records: new Map(), tracks }
      const edit = setFollow(state, record, area.id, { trackId: track.id, uses: ALL_PARTS }, frame)
      record = edit.changes[0]!.after!
      areas++
    }
    const { stackIndex: _stackIndex, ...rest } = record
    return rest
  })
  await writeWhole(out, serialiseDocument({ ...document, mends: followed, tracks: [...tracks.values()] }))
  return { areas, warnings, out }
}
