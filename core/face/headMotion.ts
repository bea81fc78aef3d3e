/** How a head moves as a whole. Its features go about on it while it turns; what stays with it is the box round its outline, turned as its eyes are. */
import { compose, invert, norm, type Matrix3 } from '../geometry/transform'
import { placesOfPart } from './features'
import { boxAlong } from './turnedBox'

/** @param then, now  What is kept of a face on two frames. @returns A turn, scale and shift; null where the face has no size. */
export function headMotion(then: readonly number[], now: readonly number[]): Matrix3 | null {
  const [from, to] = [headFrame(then), headFrame(now)]
  const back = from && invert(from)
  return to && back ? compose(to, back) : null
}

/** From a head of height 1 about 0, 0 to where it lies. */
function headFrame(kept: readonly number[]): Matrix3 | null {
  const [rightEye, leftEye] = [placesOfPart(kept, 'right eye'), placesOfPart(kept, 'left eye')]
  const [dx, dy] = [leftEye[0]! - rightEye[0]!, leftEye[1]! - rightEye[1]!]
  const length = norm(dx, dy)
  if (!(length > 0)) return null
  const right = { x: dx / length, y: dy / length }
  const { x, y, height } = boxAlong(placesOfPart(kept, 'face'), right)
  const [across, down] = [height * right.x, height * right.y]
  return height > 0 ? [across, -down, x, down, across, y, 0, 0, 1] : null
}
