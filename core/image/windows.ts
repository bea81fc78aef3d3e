/** What squares around every pixel of a map hold: sums and least values, at a cost that does not grow with the square. */

/** Sums over squares of 2 radius + 1 px, cut off at the border. Cost: four additions a pixel. */
export function boxSums(map: Float32Array, width: number, height: number, radius: number): Float32Array {
  const across = new Float32Array(map.length)
  for (let row = 0; row < height; row++) {
    let sum = 0
    const line = row * width
    for (let col = 0; col < Math.min(radius, width); col++) sum += map[line + col]!
    for (let col = 0; col < width; col++) {
      if (col + radius < width) sum += map[line + col + radius]!
      if (col - radius - 1 >= 0) sum -= map[line + col - radius - 1]!
      across[line + col] = sum
    }
  }
  const out = new Float32Array(map.length)
  const sums = new Float64Array(width)
  for (let row = 0; row < Math.min(radius, height); row++)
    for (let col = 0; col < width; col++) sums[col]! += across[row * width + col]!
  for (let row = 0; row < height; row++) {
    for (let col = 0; col < width; col++) {
      if (row + radius < height) sums[col]! += across[(row + radius) * width + col]!
      if (row - radius - 1 >= 0) sums[col]! -= across[(row - radius - 1) * width + col]!
      out[row * width + col] = sums[col]!
    }
  }
  return out
}

/**
 * The least within squares of 2 radius + 1 px, cut off at the border. Cost: a few comparisons a pixel, whatever the radius.
 * Source: M. van Herk, "A fast algorithm for local minimum and maximum filters", Pattern Recognition Letters 13, 1992.
 */
export function slidingLeast(map: Float32Array, width: number, height: number, radius: number): Float32Array {
  if (radius === 0) return map
  const across = new Float32Array(map.length)
  const line = new LeastLine(Math.max(width, height), radius)
  for (let row = 0; row < height; row++) line.run(map, across, row * width, 1, width)
  const out = new Float32Array(map.length)
  for (let col = 0; col < width; col++) line.run(across, out, col, width, height)
  return out
}

class LeastLine {
  readonly #radius: number
  readonly #forward: Float32Array
  readonly #backward: Float32Array

  constructor(max: number, radius: number) {
    this.#radius = radius
    const window = 2 * radius + 1
    const padded = Math.ceil((max + 2 * radius) / window) * window
    this.#forward = new Float32Array(padded)
    this.#backward = new Float32Array(padded)
  }

  /** `count` values of `from`, `stride` apart, beginning at `at`. */
  run(from: Float32Array, to: Float32Array, at: number, stride: number, count: number): void {
    const radius = this.#radius
    const [forward, backward] = [this.#forward, this.#backward]
    const window = 2 * radius + 1
    const padded = Math.ceil((count + 2 * radius) / window) * window
    const far = 3.4e38
    for (let i = 0; i < padded; i++) {
      const k = i - radius
      const value = k >= 0 && k < count ? from[at + k * stride]! : far
      forward[i] = i % window === 0 || value < forward[i - 1]! ? value : forward[i - 1]!
      backward[i] = value
    }
    for (let i = padded - 2; i >= 0; i--)
      if ((i + 1) % window !== 0 && backward[i + 1]! < backward[i]!) backward[i] = backward[i + 1]!
    for (let k = 0; k < count; k++) {
      const [a, b] = [backward[k]!, forward[k + window - 1]!]
      to[at + k * stride] = a < b ? a : b
    }
  }
}

/** Side of the largest square of a map that is 1 everywhere, px; the map is so many px wide. Cost: one pass. Source: common practice. */
export function widestSquare(map: Uint8Array, width: number): number {
  // The largest square that ends at each pixel, one more than the least of those that end to its left, above, and between.
  const sides = new Int32Array(width)
  let [max, aboveLeft] = [0, 0]
  for (let pixel = 0; pixel < map.length; pixel++) {
    const col = pixel % width
    if (col === 0) aboveLeft = 0
    const above = sides[col]!
    sides[col] = map[pixel] === 0 ? 0 : 1 + (col === 0 ? 0 : Math.min(above, aboveLeft, sides[col - 1]!))
    aboveLeft = above
    max = Math.max(max, sides[col])
  }
  return max
}
