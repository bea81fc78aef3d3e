/**
 * Which layer of the scene a hidden place belongs to: the one through which the other frames agree best.
 *
 * Costs are averaged over a window that may lie to any side of the place, so that a layer's edge is not widened.
 * Sources: R. T. Collins, "A space-sweep approach to true multi-image matching", CVPR 1996; shiftable windows:
 * A. F. Bobick and S. S. Intille, "Large occlusion stereo", IJCV 33(3), 1999.
 */

import { NO_LAYER } from '../scene/layerMap'
import { boxSums, slidingLeast } from '../image/windows'

export interface LayerCosts {
  /** Hidden pixels of the crop. */
  readonly hidden: Int32Array
  /** For each layer, how badly the frames agree about each hidden pixel: 0 to 1, NaN where too few saw it. */
  readonly costs: readonly Float32Array[]
  /** Pixels around them, and the layer of each. */
  readonly around: Int32Array
  readonly aroundLayers: Uint8Array
  /** The layer that the scene says lies behind each hidden pixel; NO_LAYER where it does not know. */
  readonly told: Uint8Array
}

const WINDOW_PX = 4
const SHIFT_PX = 3
/** What nothing is known of is neither good nor bad. */
const NEUTRAL = 0.2
/** How much what lies around counts beside what the frames say. */
const PRIOR_SHARE = 0.4
/** The same of what all frames of the scene say together. */
const TOLD_SHARE = 0.3
/** Layers are looked for around a place within squares of these radii, the nearest counting most. */
const PRIOR_RADII_PX = [8, 20, 48, 112] as const

/** @returns The layer for each hidden pixel. @param width, height  Of the crop. */
export function chooseLayers(
  { hidden, costs, around, aroundLayers, told }: LayerCosts,
  width: number,
  height: number,
): Uint8Array {
  const labels = new Uint8Array(hidden.length)
  if (costs.length < 2) return labels
  const present = new Float32Array(width * height)
  for (const pixel of around) present[pixel] = 1
  const presentSums = PRIOR_RADII_PX.map((radius) => boxSums(present, width, height, radius))
  const best = new Float32Array(hidden.length).fill(Infinity)
  costs.forEach((cost, layer) => {
    const [map, known, ofLayer] = [
      new Float32Array(width * height),
      new Float32Array(width * height),
      new Float32Array(width * height),
    ]
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
    const min = slidingLeast(sums, width, height, SHIFT_PX)
    const layerSums = PRIOR_RADII_PX.map((radius) => boxSums(ofLayer, width, height, radius))
    hidden.forEach((pixel, i) => {
      let [share, total] = [0, 1e-6]
      PRIOR_RADII_PX.forEach((radius, k) => {
        // Sums over larger squares hold those over smaller ones: divided by their size, the nearest count most.
        share += layerSums[k]![pixel]! / (radius * radius * radius)
        total += presentSums[k]![pixel]! / (radius * radius * radius)
      })
      const value =
        min[pixel]! +
        (told[i] === NO_LAYER ? PRIOR_SHARE * (1 - share / total) : told[i] === layer ? 0 : TOLD_SHARE)
      if (value >= best[i]!) return
      best[i] = value
      labels[i] = layer
    })
  })
  return labels
}
