/**
 * Which layer of the scene a hidden place belongs to: the one through which the other frames agree best.
 *
 * Costs are averaged over a window that may lie to any side of the place, so that a layer's edge is not widened.
 * Sources: R. T. Collins, "A space-sweep approach to true multi-image matching", CVPR 1996; shiftable windows:
 * A. F. Bobick and S. S. Intille, "Large occlusion stereo", IJCV 33(3), 1999.
 */
import { boxMeans, boxSums, slidingLeast } from '../image/windows'
import { NO_LAYER } from '../scene/layerMap'

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
/** Layers are looked for around a place within squares of these radii, the nearest counting most; counted in cells. */
const PRIOR_CELL_PX = 4
const PRIOR_RADII_CELLS = [2, 5, 12, 28] as const

/** @returns The layer for each hidden pixel. @param width, height  Of the crop. */
export function chooseLayers(
  { hidden, costs, around, aroundLayers, told }: LayerCosts,
  width: number,
  height: number,
): Uint8Array {
  const labels = new Uint8Array(hidden.length)
  if (costs.length < 2) return labels
  if (hidden.length === 0) return labels
  const part = partAround(hidden, width, height)
  const best = new Float32Array(hidden.length).fill(Infinity)
  const presence = nearness(around, () => true, width, height)
  costs.forEach((cost, layer) => {
    const least = windowCosts(hidden, cost, width, part)
    const nearby = nearness(around, (k) => aroundLayers[k] === layer, width, height)
    for (let i = 0; i < hidden.length; i++) {
      const pixel = hidden[i]!
      const cell = cellOf(pixel, width)
      const isTold = told[i] !== NO_LAYER
      const prior = isTold
        ? told[i] === layer
          ? 0
          : TOLD_SHARE
        : PRIOR_SHARE * (1 - nearby[cell]! / (presence[cell]! + 1e-6))
      const value = least[i]! + prior
      if (value >= best[i]!) continue
      best[i] = value
      labels[i] = layer
    }
  })
  return labels
}

/** The box around the hidden places, in px of the crop, with all that windows reach. */
interface Part {
  readonly left: number
  readonly top: number
  readonly width: number
  readonly height: number
}

function partAround(hidden: Int32Array, width: number, height: number): Part {
  const reach = WINDOW_PX + SHIFT_PX
  let [left, right] = [width, 0]
  for (let i = 0; i < hidden.length; i++) {
    const col = hidden[i]! % width
    if (col < left) left = col
    if (col > right) right = col
  }
  // Pixels come in rising order.
  const [top, bottom] = [(hidden[0]! / width) | 0, (hidden.at(-1)! / width) | 0]
  const [from, above] = [Math.max(0, left - reach), Math.max(0, top - reach)]
  return {
    left: from,
    top: above,
    width: Math.min(width - 1, right + reach) - from + 1,
    height: Math.min(height - 1, bottom + reach) - above + 1,
  }
}

/** The least mean cost of any window that holds a place, for each place. */
function windowCosts(hidden: Int32Array, cost: Float32Array, width: number, part: Part): Float32Array {
  const size = part.width * part.height
  const [map, known] = [new Float32Array(size), new Float32Array(size)]
  const places = new Int32Array(hidden.length)
  for (let i = 0; i < hidden.length; i++) {
    const row = (hidden[i]! / width) | 0
    const place = (row - part.top) * part.width + hidden[i]! - row * width - part.left
    places[i] = place
    if (Number.isNaN(cost[i]!)) continue
    map[place] = cost[i]!
    known[place] = 1
  }
  const means = boxMeans(map, known, part.width, part.height, WINDOW_PX, NEUTRAL)
  const least = slidingLeast(means, part.width, part.height, SHIFT_PX)
  return Float32Array.from(places, (place) => least[place]!)
}

const colsOf = (width: number): number => Math.ceil(width / PRIOR_CELL_PX)

function cellOf(pixel: number, width: number): number {
  const row = (pixel / width) | 0
  return ((row / PRIOR_CELL_PX) | 0) * colsOf(width) + (((pixel - row * width) / PRIOR_CELL_PX) | 0)
}

/** For each cell how many of some pixels lie around it. Sums over larger squares hold those over smaller ones: divided by their size, the nearest count most. */
function nearness(
  pixels: Int32Array,
  isMember: (index: number) => boolean,
  width: number,
  height: number,
): Float32Array {
  const [cols, rows] = [colsOf(width), Math.ceil(height / PRIOR_CELL_PX)]
  const counts = new Float32Array(cols * rows)
  for (let k = 0; k < pixels.length; k++) if (isMember(k)) counts[cellOf(pixels[k]!, width)]!++
  const out = new Float32Array(counts.length)
  for (const radius of PRIOR_RADII_CELLS) {
    const sums = boxSums(counts, cols, rows, radius)
    for (let cell = 0; cell < out.length; cell++) out[cell]! += sums[cell]! / (radius * radius * radius)
  }
  return out
}
