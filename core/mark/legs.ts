/** The course of a mark as legs: straight travel and rests between frames on which it bends. */
import { bendsOf } from '../geometry/bends'
import type { MarkPlace } from './markPlaces'

/** Straight within this is straight, px. */
const STRAIGHT_PX = 0.25

/** The fewest places, of those given, between which all others lie straight; one of a mark that rests. */
export function legsOf<P extends MarkPlace>(places: readonly P[], tolerancePx = STRAIGHT_PX): P[] {
  const [first] = places
  if (!first) return []
  // What rests all the time is one place.
  if (places.every((place) => distance(place, first) <= tolerancePx)) return [first]
  return bendsOf(places, tolerancePx, (place, from, to) => {
    const share = (place.frame - from.frame) / (to.frame - from.frame)
    return distance(place, {
      dx: from.dx + share * (to.dx - from.dx),
      dy: from.dy + share * (to.dy - from.dy),
    })
  })
}

function distance(a: Pick<MarkPlace, 'dx' | 'dy'>, b: Pick<MarkPlace, 'dx' | 'dy'>): number {
  const [x, y] = [a.dx - b.dx, a.dy - b.dy]
  return Math.sqrt(x * x + y * y)
}
