/** What squares around every pixel of a map hold: sums and least values. The loops are in `kernels/assembly/windows.ts`. */
import { kernels } from '../kernels/module'
import { withKernelMemory, writeWithKernel } from '../kernels/memory'

/** Sums over squares of 2 radius + 1 px, cut off at the border. Cost: four additions a pixel. */
export function boxSums(map: Float32Array, width: number, height: number, radius: number): Float32Array {
  const out = new Float32Array(map.length)
  withKernelMemory(3 * map.byteLength + 8 * width + 256, (scope) => {
    const from = scope.pointerTo(map)
    const [across, columns] = [scope.reserve(map.byteLength), scope.reserve(8 * width)]
    writeWithKernel(scope, out, (to) => kernels().boxSums(from, width, height, radius, across, columns, to))
  })
  return out
}

/**
 * Means over such squares of the pixels that are known, by their number there; `none` where there are none.
 * Counts make the difference at the border, where a square holds fewer pixels.
 */
export function boxMeans(
  map: Float32Array,
  known: Float32Array,
  width: number,
  height: number,
  radius: number,
  none: number,
): Float32Array {
  const sums = boxSums(map, width, height, radius)
  const counts = boxSums(known, width, height, radius)
  for (let at = 0; at < sums.length; at++) sums[at] = counts[at]! > 0.5 ? sums[at]! / counts[at]! : none
  return sums
}

/** The least within squares of 2 radius + 1 px, cut off at the border. Cost: 4 radius + 2 comparisons a pixel, four at a time. */
export function slidingLeast(map: Float32Array, width: number, height: number, radius: number): Float32Array {
  if (radius === 0) return map
  const out = new Float32Array(map.length)
  withKernelMemory(3 * map.byteLength + 256, (scope) => {
    const from = scope.pointerTo(map)
    const across = scope.reserve(map.byteLength)
    writeWithKernel(scope, out, (to) => kernels().slidingLeast(from, width, height, radius, across, to))
  })
  return out
}

/** Side of the largest square of a map that is 1 everywhere, px; the map is so many px wide. Cost: one pass. Source: common practice. */
export function widestSquare(map: Uint8Array, width: number): number {
  // The largest square that ends at each pixel, one more than the least of those that end to its left, above, and between.
  const sides = new Int32Array(width)
  let max = 0
  for (let begin = 0; begin < map.length; begin += width) {
    let [aboveLeft, left] = [0, 0]
    for (let col = 0; col < width; col++) {
      const above = sides[col]!
      if (map[begin + col] === 0) left = 0
      else {
        const least = above < aboveLeft ? above : aboveLeft
        left = col === 0 ? 1 : 1 + (left < least ? left : least)
        if (left > max) max = left
      }
      sides[col] = left
      aboveLeft = above
    }
  }
  return max
}
