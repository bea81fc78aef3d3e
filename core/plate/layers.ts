/**
 * Which layer of the scene a hidden place belongs to: the one through which the other frames agree best.
 *
 * Costs are averaged over a window that may lie to any side of the place, so that a layer's edge is not widened.
 * Sources: R. T. Collins, "A space-sweep approach to true multi-image matching", CVPR 1996; shiftable windows:
 * A. F. Bobick and S. S. Intille, "Large occlusion stereo", IJCV 33(3), 1999.
 */

export interface LayerCosts {
  /** Hidden pixels of the crop. */
  readonly hidden: Int32Array
  /** For each layer, how badly the frames agree about each hidden pixel: 0 to 1, NaN where too few saw it. */
  readonly costs: readonly Float32Array[]
  /** Pixels around them, and the layer of each. */
  readonly around: Int32Array
  readonly aroundLayers: Uint8Array
}

const WINDOW_PX = 4
const SHIFT_PX = 3
/** What nothing is known of is neither good nor bad. */
const NEUTRAL = 0.2
/** How much what lies around counts beside what the frames say. */
const PRIOR_SHARE = 0.8
/** Layers are looked for around a place within squares of these radii, the nearest counting most. */
const PRIOR_RADII_PX = [8, 20, 48, 112] as const

/** @returns The layer for each hidden pixel. @param width, height  Of the crop. */
export function chooseLayers({ hidden, costs, around, aroundLayers }: LayerCosts, width: number, height: number): Uint8Array {
  const labels = new Uint8Array(hidden.length)
  if (costs.length < 2) return labels
  const present = new Float32Array(width * height)
  for (const pixel of around) present[pixel] = 1
  const presentSums = PRIOR_RADII_PX.map((radius) => boxSums(present, width, height, radius))
  const best = new Float32Array(hidden.length).fill(Infinity)
  costs.forEach((cost, layer) => {
    const [map, known, ofLayer] = [new Float32Array(width * height), new Float32Array(width * height), new Float32Array(width * height)]
    hidden.forEach((pixel, i) => {
      if (Number.isNaN(cost[i]!)) return
      map[pixel] = cost[i]!
      known[pixel] = 1
    })
    around.forEach((pixel, k) => {
      if (aroundLayers[k] !== layer) return
      ofLayer[pixel] = 1
    })
    const sums = boxSums(map, width, height, WINDOW_PX)
    const counts = boxSums(known, width, height, WINDOW_PX)
    for (let at = 0; at < sums.length; at++) sums[at] = counts[at]! > 0.5 ? sums[at]! / counts[at]! : NEUTRAL
    const least = slidingLeast(sums, width, height, SHIFT_PX)
    const layerSums = PRIOR_RADII_PX.map((radius) => boxSums(ofLayer, width, height, radius))
    hidden.forEach((pixel, i) => {
      let [share, total] = [0, 1e-6]
      PRIOR_RADII_PX.forEach((radius, k) => {
        // Sums over larger squares hold those over smaller ones: divided by their size, the nearest count most.
        share += layerSums[k]![pixel]! / (radius * radius * radius)
        total += presentSums[k]![pixel]! / (radius * radius * radius)
      })
      const value = least[pixel]! + PRIOR_SHARE * (1 - share / total)
      if (value >= best[i]!) return
      best[i] = value
      labels[i] = layer
    })
  })
  return labels
}

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
  for (let row = 0; row < Math.min(radius, height); row++) for (let col = 0; col < width; col++) sums[col]! += across[row * width + col]!
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

  constructor(most: number, radius: number) {
    this.#radius = radius
    const window = 2 * radius + 1
    const padded = Math.ceil((most + 2 * radius) / window) * window
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
    for (let i = padded - 2; i >= 0; i--) if ((i + 1) % window !== 0 && backward[i + 1]! < backward[i]!) backward[i] = backward[i + 1]!
    for (let k = 0; k < count; k++) {
      const [a, b] = [backward[k]!, forward[k + window - 1]!]
      to[at + k * stride] = a < b ? a : b
    }
  }
}
