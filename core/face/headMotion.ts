/** How a head moves as a whole. Its features go about on it while it turns; what stays with it is the box round its outline. */
import { compose, invert, norm, type Matrix3 } from '../geometry/transform'
import { placesOfPart } from './features'

/** The upright box round a face, turned as its eyes are: middle, and its own right as long as it is high. */
interface HeadBox {
  readonly x: number
  readonly y: number
  readonly rightX: number
  readonly rightY: number
}

/** @param then, now  What is kept of a face on two frames. @returns A turn, scale and shift; null where the face has no size. */
export function headMotion(then: readonly number[], now: readonly number[]): Matrix3 | null {
  const [from, to] = [boxOf(then), boxOf(now)]
  const back = from && invert(fromBox(from))
  return to && back ? compose(fromBox(to), back) : null
}

const fromBox = ({ x, y, rightX, rightY }: HeadBox): Matrix3 => [
  rightX,
  -rightY,
  x,
  rightY,
  rightX,
  y,
  0,
  0,
  1,
]

function boxOf(kept: readonly number[]): HeadBox | null {
  const [rightEye, leftEye] = [placesOfPart(kept, 'right eye'), placesOfPart(kept, 'left eye')]
  const [dx, dy] = [leftEye[0]! - rightEye[0]!, leftEye[1]! - rightEye[1]!]
  const length = norm(dx, dy)
  if (!(length > 0)) return null
  const [x, y] = [dx / length, dy / length]
  const places = placesOfPart(kept, 'face')
  let [left, right, top, bottom] = [Infinity, -Infinity, Infinity, -Infinity]
  for (let i = 0; i < places.length; i += 2) {
    const across = places[i]! * x + places[i + 1]! * y
    const down = places[i + 1]! * x - places[i]! * y
    left = Math.min(left, across)
    right = Math.max(right, across)
    top = Math.min(top, down)
    bottom = Math.max(bottom, down)
  }
  const [across, down, height] = [(left + right) / 2, (top + bottom) / 2, bottom - top]
  if (!(height > 0)) return null
  return { x: across * x - down * y, y: across * y + down * x, rightX: height * x, rightY: height * y }
}
