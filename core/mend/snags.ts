/** Snags: frames and places where a mend probably shows, with the reason in words. */
import { LINE_SHOWS_FROM } from '../measure/lineResidue'
import type { Size } from '../image/rect'
import type { Frame } from '../time'
import type { MendMeasure } from './evaluate'
import { placeArea, type PlacedShape } from './place'
import type { Mend } from './schema'
import { hasRowAt, trackSureAt, UNSURE_BELOW, type Tracks } from './tracks'

export type SnagReason = 'track-lost' | 'track-unsure' | 'area-jump' | 'area-leaves' | 'line-shows' | 'no-start-key'

export interface Snag {
  readonly mendId: string
  readonly frame: Frame
  readonly reason: SnagReason
  readonly x: number
  readonly y: number
  readonly words: string
}

const WORDS: Readonly<Record<SnagReason, string>> = {
  'track-lost': 'The track has nothing here: it was lost before. Set it right and track on.',
  'track-unsure': 'The track is not sure here.',
  'area-jump': 'The area jumps from the frame before.',
  'area-leaves': 'The area leaves the picture here.',
  'line-shows': 'The wire still shows here.',
  'no-start-key': 'The area has no key at the start of its span.',
}

const JUMP_PX = 3 // beyond what the course of the frames around it explains
const JUMP_SHARE = 1.5 // of that course's own step

/**
 * The snags of a mend that its data alone tell: no pixels are read.
 * Cost: one placement a frame of the span.
 */
export function findSnags(mend: Mend, tracks: Tracks, picture: Size): Snag[] {
  if (!mend.isOn) return []
  const snags: Snag[] = []
  const { firstFrame, lastFrame } = mend.span
  const add = (frame: Frame, reason: SnagReason, at: { x: number; y: number }) =>
    snags.push({ mendId: mend.id, frame, reason, ...at, words: WORDS[reason] })
  for (const area of mend.areas) {
    if (area.shape === 'matte') continue
    const track = area.follow ? tracks.get(area.follow.trackId) : undefined
    const middles = Array.from({ length: lastFrame - firstFrame + 1 }, (_, i) => middleOfPlaced(placeArea(area, tracks, firstFrame + i)))
    if (!track && area.keys.length > 1 && area.keys[0]!.frame > firstFrame) add(firstFrame, 'no-start-key', middles[0]!)
    let wasInside: boolean | null = null
    for (let frame = firstFrame; frame <= lastFrame; frame++) {
      const i = frame - firstFrame
      const at = middles[i]!
      if (track) {
        if (!hasRowAt(track, frame)) add(frame, 'track-lost', at)
        else if (trackSureAt(track, frame) < UNSURE_BELOW) add(frame, 'track-unsure', at)
      }
      if (i >= 2 && isJump(middles, i)) add(frame, 'area-jump', at)
      const isInside = at.x >= 0 && at.y >= 0 && at.x <= picture.width && at.y <= picture.height
      if (wasInside === true && !isInside && area.role === 'cover') add(frame, 'area-leaves', at)
      wasInside = isInside
    }
  }
  return snags
}

/** The snag of a frame that its finished pixels tell. */
export function snagsOfMeasures(measures: readonly MendMeasure[], frame: Frame): Snag[] {
  return measures
    .filter(({ line }) => line !== null && line.ratio >= LINE_SHOWS_FROM)
    .map(({ mendId, line }) => ({ mendId, frame, reason: 'line-shows', x: line!.x, y: line!.y, words: WORDS['line-shows'] }))
}

/** Whether the step into frame i breaks with the steps before and after it. */
function isJump(middles: readonly Point[], i: number): boolean {
  const step = (k: number) => ({ x: middles[k]!.x - middles[k - 1]!.x, y: middles[k]!.y - middles[k - 1]!.y })
  const [before, here] = [step(i - 1), step(i)]
  const after = i + 1 < middles.length ? step(i + 1) : before
  const usual = Math.max(length(before), length(after))
  const off = Math.min(length({ x: here.x - before.x, y: here.y - before.y }), length({ x: here.x - after.x, y: here.y - after.y }))
  return off > JUMP_PX + JUMP_SHARE * usual
}

interface Point {
  readonly x: number
  readonly y: number
}

const length = ({ x, y }: Point): number => Math.sqrt(x * x + y * y)

function middleOfPlaced(shape: PlacedShape): Point {
  if (shape.shape === 'matte') return { x: 0, y: 0 }
  const points =
    shape.shape === 'path'
      ? shape.points
      : Array.from({ length: shape.polygon.length / 2 }, (_, i) => ({ x: shape.polygon[2 * i]!, y: shape.polygon[2 * i + 1]! }))
  return { x: points.reduce((sum, point) => sum + point.x, 0) / points.length, y: points.reduce((sum, point) => sum + point.y, 0) / points.length }
}
