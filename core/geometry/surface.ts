/** How a surface that bends moves around one of its places, told by others: the nearer, the more they have to say. */
import { estimateMotion } from './estimate'
import { pow } from '../kernels/exact'
import { translationBy, type Matrix3 } from './transform'

/**
 * @param from, to  x, y pairs of places that are known on both frames. @param x, y  The place, where `from` is. @param falls  Half the power of the distance by which a place's say falls.
 * @returns A turn, scale and shift; a shift alone where only one place is known; null where none is.
 * Source: S. Schaefer, T. McPhail, J. Warren, "Image deformation using moving least squares", SIGGRAPH 2006, by similarities with weights of the
 * inverse squared distance, or of a higher power of it.
 */
export function surfaceMotion(
  from: readonly number[],
  to: readonly number[],
  x: number,
  y: number,
  falls = 1,
): Matrix3 | null {
  if (from.length === 0) return null
  if (from.length === 2) return translationBy(to[0]! - from[0]!, to[1]! - from[1]!)
  const weights = Float64Array.from({ length: from.length / 2 }, (_, i) => {
    const [dx, dy] = [from[2 * i]! - x, from[2 * i + 1]! - y]
    return falls === 1 ? 1 / (dx * dx + dy * dy + 1) : pow(dx * dx + dy * dy + 1, -falls)
  })
  return estimateMotion('similarity', from, to, weights)
}
