/** Cuts: frames from which on the picture is another one. */
import { medianOf } from '../image/median'

/** Beyond what frames before it differed by: so many times, and so much more, in stops. */
const TIMES = 2
const MORE_STOPS = 0.08
/** As long as too little is known of what is usual: so much. */
const SURELY_STOPS = 0.3
const MIN_STEPS = 3
/** How many steps back what is usual is asked. */
const STEPS = 8

export interface CutDetector {
  /** @param left  What differs between the last frame and this one after the best shift, in stops. @returns Whether this frame begins anew. */
  isCut(left: number): boolean
}

/** A step that leaves much more than those before it, the picture's own motion taken off. Source: common practice. */
export function createCutDetector(): CutDetector {
  let before: number[] = []
  return {
    isCut(left) {
      const max = before.length < MIN_STEPS ? SURELY_STOPS : TIMES * medianOf(before) + MORE_STOPS
      const isAnew = left > max
      before = isAnew ? [] : [...before.slice(-STEPS + 1), left]
      return isAnew
    },
  }
}
