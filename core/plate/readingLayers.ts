/** What frames show through the layers of a scene: which layer a place belongs to, and what is seen of it through that one. */
import { apply, type Matrix3 } from '../geometry/transform'
import { layerAt, NO_LAYER, type LayerMap } from '../scene/layerMap'
import { chooseLayers } from './layers'
import type { Joined, Readings } from './reading'

/** What the scene says of places: their layer; layer 0 where it has only one. */
export function layersAt(map: LayerMap | null | undefined, places: Float32Array): Uint8Array {
  const out = new Uint8Array(places.length / 2)
  if (map) for (let k = 0; k < out.length; k++) out[k] = layerAt(map, places[2 * k]!, places[2 * k + 1]!)
  return out
}

/**
 * A reading that shows another layer is shut; one that shows a layer further back speaks against this one.
 * @returns 1 for each reading so near to where the map changes from this layer to another that it may show either: the map is no
 * finer than its cells, and what is in front looks wider in it than it is.
 */
export function maskOtherLayers(
  { kept }: Readings,
  places: Float32Array,
  matrices: readonly Matrix3[],
  layer: number,
  map: LayerMap | null | undefined,
): Uint8Array {
  const doubts = new Uint8Array(kept.length)
  if (!map) return doubts
  const [inFront, own] = [map.hiddenBy[layer] ?? [], [layer]]
  const [a, b, c, d, e, f, g, h, i] = matrices[layer]!
  for (let k = 0; k < kept.length; k++) {
    if (kept[k]! <= 0) continue
    const [x, y] = [places[2 * k]!, places[2 * k + 1]!]
    const w = 1 / (g * x + h * y + i)
    const [toX, toY] = [(a * x + b * y + c) * w, (d * x + e * y + f) * w]
    const found = layerAt(map, toX, toY)
    if (found === layer || found === NO_LAYER) {
      if (inFront.length > 0 && isBeside(map, toX, toY, inFront, IN_FRONT_PX)) doubts[k] = 1
      continue
    }
    // Where both layers move alike, the one label is as good as the other.
    const other = apply(matrices[found]!, x, y)
    if ((other.x - toX) * (other.x - toX) + (other.y - toY) * (other.y - toY) < ALIKE_PX * ALIKE_PX) continue
    if (isBeside(map, toX, toY, own, FATTENED_PX)) {
      doubts[k] = 1
      continue
    }
    // Seen behind where the layer should be: then it is not there. Anything else may hide it.
    kept[k] = map.hiddenBy[found]!.includes(layer) ? BEHIND_SEEN : -1
  }
  return doubts
}

/** Whether one of some layers lies within so many px. */
function isBeside(map: LayerMap, x: number, y: number, layers: readonly number[], withinPx: number): boolean {
  for (let reach = map.cellPx; reach <= withinPx; reach += map.cellPx) {
    for (let dy = -reach; dy <= reach; dy += reach) {
      for (let dx = -reach; dx <= reach; dx += reach)
        if (layers.includes(layerAt(map, x + dx, y + dy))) return true
    }
  }
  return false
}

/** So near to a layer in front a reading may show that one; and so near to its own, what is told to be another. */
const IN_FRONT_PX = 8
const FATTENED_PX = 12

/** Doubtful readings of a place are shut where enough frames show it beyond doubt. */
export function maskUncertain(readings: readonly Readings[], doubts: readonly Uint8Array[]): void {
  const count = readings[0]?.kept.length ?? 0
  for (let i = 0; i < count; i++) {
    let sure = 0
    for (let f = 0; f < readings.length; f++) if (readings[f]!.kept[i]! > 0 && doubts[f]![i] === 0) sure++
    if (sure < MIN_ASKED) continue
    for (let f = 0; f < readings.length; f++) if (doubts[f]![i] === 1) readings[f]!.kept[i] = -1
  }
}

const ALIKE_PX = 1.5

/** Stands in `kept` where a layer further back is seen, or what this one cannot be. */
export const BEHIND_SEEN = -2

/**
 * The layer of each hidden pixel of a crop.
 * @param readings  Of each frame, through each layer. @param joined  What the frames say together, through each layer.
 */
export function layersInside(
  {
    picture,
    hidden,
  }: { readonly picture: { readonly width: number; readonly height: number }; readonly hidden: Int32Array },
  around: { readonly pixels: Int32Array; readonly layers: Uint8Array },
  readings: readonly (readonly Readings[])[],
  joined: readonly Joined[],
  tolerances: readonly number[],
  told: Uint8Array,
): Uint8Array {
  const costs = joined.map((layer, index) =>
    disagreement(
      hidden.length,
      readings.flatMap((frame) => frame[index] ?? []),
      layer,
      tolerances,
    ),
  )
  return chooseLayers(
    { hidden, costs, around: around.pixels, aroundLayers: around.layers, told },
    picture.width,
    picture.height,
  )
}

/** What is not known to be nearer may still hide a place on some frames: those that agree best are asked. */
const ASKED_SHARE = 0.5
/** So many frames, and this share of all, must have seen a place: few agree by chance. */
const MIN_ASKED = 3
const MIN_SHARE = 0.2
/** What it counts, in tolerances, that something further back is seen where the place should be. */
const ELSEWHERE = 1.5

/** How far the frames are from what they say together about the first so many places, 0 to 1.5 tolerances; NaN where too few saw one. */
function disagreement(
  count: number,
  readings: readonly Readings[],
  joined: Joined,
  tolerances: readonly number[],
): Float32Array {
  const channels = tolerances.length
  const cost = new Float32Array(count).fill(NaN)
  const sorted = new Float64Array(readings.length)
  const min = Math.max(MIN_ASKED, MIN_SHARE * readings.length)
  for (let i = 0; i < cost.length; i++) {
    let [seen, against] = [0, 0]
    for (const { values, kept } of readings) {
      if (kept[i] === BEHIND_SEEN) against++
      if (kept[i]! <= 0) continue
      let off = 0
      for (let c = 0; c < channels; c++)
        off += Math.min(
          1.5,
          Math.abs(values[i * channels + c]! - joined.values[i * channels + c]!) / tolerances[c]!,
        )
      let at = seen++
      for (; at > 0 && sorted[at - 1]! > off; at--) sorted[at] = sorted[at - 1]!
      sorted[at] = off
    }
    if (seen + against < min) continue
    const asked = Math.min(seen, Math.max(MIN_ASKED, Math.ceil(ASKED_SHARE * seen)))
    let sum = 0
    for (let k = 0; k < asked; k++) sum += sorted[k]!
    const agreed = asked === 0 ? 0 : sum / (asked * channels)
    cost[i] = (seen * agreed + against * ELSEWHERE) / (seen + against)
  }
  return cost
}

/** Of what was joined through each layer, what each place's own layer says. */
export function byLayers(joined: readonly Joined[], layers: Uint8Array, channels: number): Joined {
  if (joined.length === 1) return joined[0]!
  const out: Joined = {
    values: new Float32Array(layers.length * channels),
    variance: new Float32Array(layers.length),
    seen: new Float32Array(layers.length),
    agree: new Float32Array(layers.length),
  }
  layers.forEach((layer, i) => {
    const from = joined[layer]!
    for (let c = 0; c < channels; c++) out.values[i * channels + c] = from.values[i * channels + c]!
    out.variance[i] = from.variance[i]!
    out.seen[i] = from.seen[i]!
    out.agree[i] = from.agree[i]!
  })
  return out
}

/** The same for what one frame shows. */
export function mergeReadings(readings: readonly Readings[], layers: Uint8Array, channels: number): Readings {
  if (readings.length === 1) return readings[0]!
  const out = { values: new Float32Array(layers.length * channels), kept: new Float32Array(layers.length) }
  layers.forEach((layer, i) => {
    const from = readings[layer] ?? readings[0]!
    out.kept[i] = readings[layer] ? from.kept[i]! : -1
    for (let c = 0; c < channels; c++) out.values[i * channels + c] = from.values[i * channels + c]!
  })
  return out
}
