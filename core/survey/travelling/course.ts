/** The course of a thing as legs, told from places of which some are wrong. */
import type { Frame } from '../../time'

export interface PlaceOnFrame {
  readonly frame: Frame
  readonly x: number
  readonly y: number
}

export interface Course<P extends PlaceOnFrame> {
  /** Places between which the course is straight, and its pace even: at least one. */
  readonly bends: readonly P[]
  /** Places that lie on it, its bends included. */
  readonly agreeing: number
  /** Of each leg, places that lie on it between its bends. */
  readonly between: readonly number[]
}

/** A bend costs as much as so many places that lie elsewhere. */
const BEND = 2.5
/** No leg has more places. */
const LONGEST = 120

/**
 * The legs that explain most places with the fewest bends: the least of a bounded sum of squares, by dynamic programming.
 * Source: R. Bellman, "On the approximation of curves by line segments using dynamic programming", CACM 4(6), 1961; bounded as in robust statistics.
 * @param tolerance  So far from its leg, in the unit of the places, a place is as good as lost.
 */
export function courseOf<P extends PlaceOnFrame>(places: readonly P[], tolerance: number): Course<P> {
  const count = places.length
  const [least, from] = [new Float64Array(count).fill(Infinity), new Int32Array(count).fill(-1)]
  // A course may begin after places that are wrong, and end before some.
  let [best, end] = [Infinity, 0]
  for (let j = 0; j < count; j++) {
    least[j] = j
    for (let i = Math.max(0, j - LONGEST); i < j; i++) {
      const cost = least[i]! + BEND + offLeg(places, i, j, tolerance)
      if (cost < least[j]!) [least[j], from[j]] = [cost, i]
    }
    const whole = least[j]! + (count - 1 - j)
    if (whole < best) [best, end] = [whole, j]
  }
  const chosen: number[] = []
  for (let at = end; at >= 0; at = from[at]!) chosen.unshift(at)
  const between = chosen.slice(1).map((to, k) => {
    let agreeing = 0
    for (let i = chosen[k]! + 1; i < to; i++)
      if (squareOff(places, chosen[k]!, to, i) <= tolerance * tolerance) agreeing++
    return agreeing
  })
  return {
    bends: chosen.map((at) => places[at]!),
    agreeing: between.reduce((sum, one) => sum + one, chosen.length),
    between,
  }
}

/** What its places between two others cost, at most 1 each. */
function offLeg(places: readonly PlaceOnFrame[], from: number, to: number, tolerance: number): number {
  let sum = 0
  for (let i = from + 1; i < to; i++)
    sum += Math.min(1, squareOff(places, from, to, i) / (tolerance * tolerance))
  return sum
}

function squareOff(places: readonly PlaceOnFrame[], from: number, to: number, i: number): number {
  const [a, b, here] = [places[from]!, places[to]!, places[i]!]
  const share = (here.frame - a.frame) / (b.frame - a.frame)
  const [x, y] = [here.x - a.x - share * (b.x - a.x), here.y - a.y - share * (b.y - a.y)]
  return x * x + y * y
}
