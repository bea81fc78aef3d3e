/** Tells when a line that is followed anew has come back to where it was known to be. */
import { createPathCurve, nearestOnPath } from '../../geometry/pathCurve'
import type { Frame } from '../../time'
import type { TrackedFrame } from '../runTrack'
import { trackedPoints } from './clingCurves'

/** So many frames in a row that are the same, and sure both times, end what is followed anew: the two are joined over them. */
export const JOINED_FRAMES = 4
const SURE_FROM = 0.8
/** Across the line: along it nothing tells how far it has slid. */
const SAME_PX = 1

export class SameAgain {
  readonly #known: ReadonlyMap<Frame, TrackedFrame>
  #inARow = 0

  constructor(known: readonly TrackedFrame[]) {
    this.#known = new Map(known.map((one) => [one.frame, one]))
  }

  /** @returns Whether this frame is the last of enough that are the same. */
  add(here: TrackedFrame): boolean {
    const known = this.#known.get(here.frame)
    const isSame =
      known !== undefined && Math.min(known.sure, here.sure) >= SURE_FROM && offLinePx(known, here) < SAME_PX
    this.#inARow = isSame ? this.#inARow + 1 : 0
    return this.#inARow >= JOINED_FRAMES
  }
}

/** How far the inner points of a line lie off another at most, px. */
export function offLinePx(line: TrackedFrame, other: TrackedFrame): number {
  const curve = createPathCurve(trackedPoints(line.values))
  const inner = trackedPoints(other.values).slice(1, -1)
  return inner.reduce((most, { x, y }) => Math.max(most, nearestOnPath(curve, x, y).distancePx), 0)
}
