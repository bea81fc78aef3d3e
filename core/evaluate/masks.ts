/** What a shot's mends cover on its frames: what is left out where its background is looked at. */
import { wholePicture } from '../image/rect'
import { tableOf } from '../plan/planFrame'
import type { ShotDocument } from '../plan/shotDocument'
import type { Clip } from '../shot/clip'
import { MENDED } from '../fill/method'
import type { Frame } from '../time'
import { tabooOf, type TabooShape } from './coverage'
import { ShapeReader } from './shapeReader'

/** Of a whole frame, 1 where mends cover it or hold it out; null where nothing does. */
export type MaskAt = (frame: Frame) => Promise<Uint8Array | null>

export function masksOf(document: ShotDocument, clip: Clip): MaskAt {
  const reader = new ShapeReader(clip)
  return async (frame) => {
    const shapes: TabooShape[] = []
    for (const { placed, edge, isTrouble } of tableOf(document, frame).areas) {
      if (!isTrouble) continue
      const [shape] = await reader.all([placed.shape], frame)
      if (shape) shapes.push({ shape, edge, level: MENDED })
    }
    return tabooOf(shapes, wholePicture(clip.plate))
  }
}

/** Masks that are asked for again and again. */
const KEPT = 24

/** What all mends but one cover, each frame worked out once while it is asked for; undefined where there are no others. */
export function masksOfOthers(document: ShotDocument, mendId: string, clip: Clip): MaskAt | undefined {
  const mends = document.mends.filter(({ id }) => id !== mendId)
  if (mends.length === 0) return undefined
  const maskAt = masksOf({ ...document, mends }, clip)
  const kept = new Map<Frame, Promise<Uint8Array | null>>()
  return (frame) => {
    const mask = kept.get(frame) ?? maskAt(frame)
    kept.delete(frame)
    kept.set(frame, mask)
    for (const oldest of kept.keys()) {
      if (kept.size <= KEPT) break
      kept.delete(oldest)
    }
    return mask
  }
}
