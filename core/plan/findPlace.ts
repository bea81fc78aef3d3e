/** Where a mark whose picture is known lies in a shot: on all frames of its mend alike, or on the one that is looked at. */
import type { Mend } from '../document/mend'
import { placeMark, type FoundPlace } from '../mark/placeMark'
import type { Clip } from '../shot/clip'
import type { RunContext } from '../shot/context'
import type { Frame } from '../time'
import { plannedMend } from './plannedMend'
import type { ShotDocument } from './shotDocument'

/** Frames that are looked at together. */
const LOOKED_AT = 12
/** Below this it may be anything. */
export const SURE_PLACE = 0.25

export interface MarkFound extends FoundPlace {
  readonly on: Frame
  readonly width: number
  readonly height: number
}

/** @returns null when it was stopped, or the mend has no picture of a mark that fits into the frame. */
export async function findPlace(
  { plate }: ShotDocument,
  mend: Mend,
  frame: Frame,
  clip: Clip,
  context: RunContext,
): Promise<MarkFound | null> {
  const { method, params } = plannedMend(mend)
  const wanted = method?.needsMark?.(params)
  const mark = wanted ? await clip.readMark(wanted.of) : null
  if (!mark) return null
  const first = Math.max(mend.span.firstFrame, plate.firstFrame)
  const last = Math.min(mend.span.lastFrame, plate.lastFrame)
  const count = Math.min(LOOKED_AT, last - first + 1)
  const frames = Array.from({ length: count }, (_, i) =>
    Math.round(first + (count === 1 ? 0 : (i * (last - first)) / (count - 1))),
  )
  const { width, height } = mark
  const resting = await placeMark(clip, mark, frames, context)
  if (resting && resting.sure >= SURE_PLACE) return { ...resting, on: first, width, height }
  if (context.shouldStop()) return null
  // One that travels is smeared over many frames.
  const here = await placeMark(clip, mark, [frame], context)
  const better =
    here && (!resting || here.sure > resting.sure)
      ? { ...here, on: frame }
      : resting && { ...resting, on: first }
  return better && { ...better, width, height }
}
