/** The course of a mark as legs: straight travel and rests between frames on which it bends. */
import type { MarkPlace } from './markPlaces'

/** Straight within this is straight, px. */
const STRAIGHT_PX = 0.25

/**
 * The fewest places, of those given, between which all others lie straight.
 * Source: D. H. Douglas, T. K. Peucker, 1973, in place over time.
 */
export function legsOf<P extends MarkPlace>(places: readonly P[], tolerancePx = STRAIGHT_PX): P[] {
  if (places.length === 0) return []
  const isKept = new Uint8Array(places.length)
  isKept[0] = 1
  keepBends(places, 0, places.length - 1, tolerancePx, isKept)
  // What rests all the time is one place.
  if (places.every((place) => distance(place, places[0]!) <= tolerancePx)) return [places[0]!]
  isKept[places.length - 1] = 1
  return places.filter((_, i) => isKept[i] === 1)
}

function keepBends(
  places: readonly MarkPlace[],
  first: number,
  last: number,
  tolerancePx: number,
  isKept: Uint8Array,
): void {
  if (last - first < 2) return
  const [a, b] = [places[first]!, places[last]!]
  let [worst, at] = [0, -1]
  for (let i = first + 1; i < last; i++) {
    const share = (places[i]!.frame - a.frame) / (b.frame - a.frame)
    const off = distance(places[i]!, { dx: a.dx + share * (b.dx - a.dx), dy: a.dy + share * (b.dy - a.dy) })
    if (off > worst) [worst, at] = [off, i]
  }
  if (worst <= tolerancePx) return
  isKept[at] = 1
  keepBends(places, first, at, tolerancePx, isKept)
  keepBends(places, at, last, tolerancePx, isKept)
}

function distance(a: Pick<MarkPlace, 'dx' | 'dy'>, b: Pick<MarkPlace, 'dx' | 'dy'>): number {
  const [x, y] = [a.dx - b.dx, a.dy - b.dy]
  return Math.sqrt(x * x + y * y)
}
