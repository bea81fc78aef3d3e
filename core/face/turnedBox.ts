/** The box round places along directions of its own. */
import type { Place } from '../geometry/transform'

export interface TurnedBox extends Place {
  readonly width: number
  readonly height: number
}

/** @param places  x, y pairs. @param right  The box's own direction to the right, of length 1. @returns Its middle and its sides. */
export function boxAlong(places: ArrayLike<number>, right: Place): TurnedBox {
  let [left, top, rightmost, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
  for (let i = 0; i < places.length; i += 2) {
    const across = places[i]! * right.x + places[i + 1]! * right.y
    const down = places[i + 1]! * right.x - places[i]! * right.y
    left = Math.min(left, across)
    rightmost = Math.max(rightmost, across)
    top = Math.min(top, down)
    bottom = Math.max(bottom, down)
  }
  const [across, down] = [(left + rightmost) / 2, (top + bottom) / 2]
  return {
    x: across * right.x - down * right.y,
    y: across * right.y + down * right.x,
    width: rightmost - left,
    height: bottom - top,
  }
}
