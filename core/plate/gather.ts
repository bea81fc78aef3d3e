/**
 * Gathering the background: what other frames show of the places that something hides on this one.
 *
 * Every frame is laid over this one by the scene's motion, corrected on the plate around the area; its light is
 * brought to this frame's; then the frames are joined place by place. Where the scene has several layers, each place
 * belongs to the one through which the frames agree.
 */
import { brightnessOf, pick2, refineMotion, type Anchors } from './refine'
import { chooseLayers } from './layers'
import { joinReadings, openFrame, openFrameBytes, type GatherFrame, type Joined, type Readings } from './reading'
import { fitToneField, relight, type ToneField } from './toneField'
import { withKernelMemory } from '../kernels/memory'
import { apply, type Matrix3 } from '../geometry/transform'
import type { Raster } from '../image/raster'
import type { Rect } from '../image/rect'
import { layerAt, NO_LAYER, type LayerMap } from '../scene/layerMap'

export interface GatherInput {
  readonly frame: number
  readonly picture: Raster
  readonly rect: Rect
  /** Pixels of the crop to find out, in rising order, and pixels around them that show what is really there. */
  readonly hidden: Int32Array
  readonly around: Int32Array
  readonly frames: readonly GatherFrame[]
  /** Layers of this frame around the area, where the scene has several. */
  readonly layerMap: LayerMap | null
  readonly shouldStop: () => boolean
}

export interface FrameReport {
  readonly frame: number
  /** 0 to 1: how well it lies over this frame, around the area. */
  readonly sure: number
  /** Where the largest layer's places lie there. */
  readonly thereFromHere: Matrix3
}

export interface Gathered extends Joined {
  /** The frame that had the most say, for each hidden pixel; −1 where nobody saw it. */
  readonly from: Int32Array
  readonly layers: Uint8Array
  readonly reports: readonly FrameReport[]
  /** What the frames show, in this frame's light and place by place, with how much each has to say. */
  readonly readings: readonly Readings[]
  readonly weights: readonly number[]
  /** Values further than this from each other are not the same thing, for each channel. */
  readonly tolerances: readonly number[]
  /** Deviation of one frame's grain, as frames that show the same place differ by it, for each channel. */
  readonly grainDeviations: readonly number[]
}

const MOST_ANCHORS = 2400

/** @returns null when it was stopped, or no frame lies over this one. */
export function gather(input: GatherInput): Gathered | null {
  const { picture, hidden, frames } = input
  const { channels } = picture
  const anchors = anchorsOf(input)
  const layerCount = frames.reduce((most, { layersFromHere }) => Math.max(most, layersFromHere.length), 1)
  const anchorLayers = layersAt(input.layerMap, anchors.places)
  const byLayer = Array.from({ length: layerCount }, (_, layer) => indicesWhere(anchorLayers, (one) => one === layer))
  const hiddenPlaces = placesOf(input, hidden)
  const box = boxOf(anchors.places)

  const laid: { frame: GatherFrame; readings: Readings[]; field: ToneField; sure: number; thereFromHere: Matrix3; residual: number; kept: number }[] =
    []
  for (const frame of frames) {
    if (input.shouldStop()) return null
    const room = openFrameBytes(frame, Math.max(anchors.values.length, hidden.length))
    const done = withKernelMemory(room, (scope) => {
      const open = openFrame(frame, scope)
      const motions = frame.layersFromHere.map((start, layer) => ({ start, refined: refineMotion(anchors, byLayer[layer]!, open, start, channels) }))
      const matrices = motions.map(({ start, refined }) => refined?.thereFromHere ?? start)
      const around = readByLayer(open.read, matrices, byLayer, anchors, channels)
      const field = fitToneField(anchors.places, anchors.all, around.values, around.kept, channels, box)
      if (!field) return null
      const residual = field.residuals.reduce((sum, one) => sum + one, 0) / channels
      const readings = matrices.map((matrix, layer) => {
        const one = open.read(matrix, hiddenPlaces)
        relight(field, hiddenPlaces, one.values, channels)
        shutOtherLayers(one, hiddenPlaces, matrices, layer, frame.layerMap)
        return one
      })
      const sure = motions[0]!.refined ? motions[0]!.refined.inside : 0.3
      return { frame, readings, field, sure, thereFromHere: matrices[0]!, residual, kept: meanKept(around.kept) }
    })
    if (done) laid.push(done)
  }
  if (laid.length === 0) return null

  const bestResidual = Math.max(1e-5, Math.min(...laid.map(({ residual }) => residual)))
  const weights = laid.map(({ frame, residual, sure }) => weightOf(Math.abs(frame.frame - input.frame), residual / bestResidual, sure))
  const tolerances = Array.from({ length: channels }, (_, c) => TOLERANCE * median(laid.map(({ field }) => field.residuals[c]!)))
  const joinedByLayer = Array.from({ length: layerCount }, (_, layer) =>
    joinReadings(
      laid.map(({ readings }) => readings[layer] ?? nothing(hidden.length, channels)),
      weights,
      tolerances,
    ),
  )
  const layers =
    layerCount > 1
      ? layersInside(
          input,
          anchors,
          anchorLayers,
          laid.map(({ readings }) => readings),
          joinedByLayer,
          tolerances,
        )
      : new Uint8Array(hidden.length)
  const joined = byLayers(joinedByLayer, layers, channels)
  const readings = laid.map((one) => mergeReadings(one.readings, layers, channels))
  return {
    ...joined,
    layers,
    readings,
    weights,
    tolerances,
    grainDeviations: Array.from({ length: channels }, (_, c) => median(laid.map(({ field, kept }) => field.residuals[c]! / Math.sqrt(1 + kept)))),
    from: strongest(
      readings,
      weights,
      laid.map(({ frame }) => frame.frame),
      hidden.length,
    ),
    reports: laid.map(({ frame, residual, thereFromHere, sure }) => ({
      frame: frame.frame,
      sure: sure * Math.min(1, (1.5 * bestResidual) / residual),
      thereFromHere,
    })),
  }
}

/** In deviations of the difference between two frames: beyond, it is something else. */
const TOLERANCE = 3.5
const HALF_WEIGHT_FRAMES = 16

const weightOf = (away: number, misfit: number, sure: number): number => {
  const nearness = 1 / (1 + (away / HALF_WEIGHT_FRAMES) * (away / HALF_WEIGHT_FRAMES))
  // A frame that fits half as well has an eighth of the say.
  return (nearness * sure) / (misfit * misfit * misfit)
}

interface RingAnchors extends Anchors {
  /** All channels. */
  readonly all: Float32Array
  /** Their pixels in the crop. */
  readonly pixels: Int32Array
}

function anchorsOf(input: GatherInput): RingAnchors {
  const { picture, around } = input
  const { width, height, channels, data } = picture
  const stride = Math.max(1, Math.ceil(around.length / MOST_ANCHORS))
  const pixels = around.filter((pixel, i) => {
    const [col, row] = [pixel % width, (pixel / width) | 0]
    return (i + row) % stride === 0 && col >= 2 && row >= 2 && col < width - 2 && row < height - 2
  })
  const all = new Float32Array(pixels.length * channels)
  pixels.forEach((pixel, k) => all.set(data.subarray(pixel * channels, (pixel + 1) * channels), k * channels))
  const [slopesX, slopesY] = [new Float32Array(pixels.length), new Float32Array(pixels.length)]
  const meanAt = (pixel: number) => {
    let sum = 0
    for (let dy = -1; dy <= 1; dy++)
      for (let at = (pixel + dy * width - 1) * channels; at < (pixel + dy * width + 2) * channels; at++) sum += data[at]!
    return sum / (9 * channels)
  }
  pixels.forEach((pixel, k) => {
    slopesX[k] = (meanAt(pixel + 1) - meanAt(pixel - 1)) / 2
    slopesY[k] = (meanAt(pixel + width) - meanAt(pixel - width)) / 2
  })
  return { places: placesOf(input, pixels), values: brightnessOf(all, channels), slopesX, slopesY, all, pixels }
}

function placesOf({ rect, picture }: GatherInput, pixels: Int32Array): Float32Array {
  const out = new Float32Array(2 * pixels.length)
  pixels.forEach((pixel, k) => {
    out[2 * k] = rect.col + (pixel % picture.width) + 0.5
    out[2 * k + 1] = rect.row + ((pixel / picture.width) | 0) + 0.5
  })
  return out
}

const indicesWhere = (labels: Uint8Array, isWanted: (label: number) => boolean): Int32Array => {
  const out = new Int32Array(labels.length)
  let count = 0
  labels.forEach((label, i) => {
    if (isWanted(label)) out[count++] = i
  })
  return out.slice(0, count)
}

function boxOf(places: Float32Array) {
  let [left, right, top, bottom] = [Infinity, -Infinity, Infinity, -Infinity]
  for (let k = 0; k < places.length; k += 2) {
    left = Math.min(left, places[k]!)
    right = Math.max(right, places[k]!)
    top = Math.min(top, places[k + 1]!)
    bottom = Math.max(bottom, places[k + 1]!)
  }
  return { x: (left + right) / 2, y: (top + bottom) / 2, halfPx: Math.max(8, (right - left) / 2, (bottom - top) / 2) }
}

/** What the scene says of places: their layer; layer 0 where it has only one. */
function layersAt(map: LayerMap | null | undefined, places: Float32Array): Uint8Array {
  const out = new Uint8Array(places.length / 2)
  if (map) for (let k = 0; k < out.length; k++) out[k] = layerAt(map, places[2 * k]!, places[2 * k + 1]!)
  return out
}

/** A reading that shows another layer is shut: what passes in front hides it, anything else speaks against it. */
function shutOtherLayers(
  { kept }: Readings,
  places: Float32Array,
  matrices: readonly Matrix3[],
  layer: number,
  map: LayerMap | null | undefined,
): void {
  if (!map) return
  const [a, b, c, d, e, f, g, h, i] = matrices[layer]!
  for (let k = 0; k < kept.length; k++) {
    if (kept[k]! <= 0) continue
    const [x, y] = [places[2 * k]!, places[2 * k + 1]!]
    const w = 1 / (g * x + h * y + i)
    const [toX, toY] = [(a * x + b * y + c) * w, (d * x + e * y + f) * w]
    const found = layerAt(map, toX, toY)
    if (found === layer || found === NO_LAYER) continue
    // Where both layers move alike, the one label is as good as the other.
    const other = apply(matrices[found]!, x, y)
    if ((other.x - toX) * (other.x - toX) + (other.y - toY) * (other.y - toY) < ALIKE_PX * ALIKE_PX) continue
    kept[k] = map.hiddenBy[layer]!.includes(found) ? -1 : OTHER_LAYER
  }
}

const ALIKE_PX = 1.5

/** Stands in `kept` where something is seen that cannot hide the layer. */
const OTHER_LAYER = -2

function readByLayer(
  read: (matrix: Matrix3, places: Float32Array) => Readings,
  matrices: readonly Matrix3[],
  byLayer: readonly Int32Array[],
  anchors: RingAnchors,
  channels: number,
): Readings {
  const values = new Float32Array(anchors.values.length * channels)
  const kept = new Float32Array(anchors.values.length).fill(-1)
  matrices.forEach((matrix, layer) => {
    const which = byLayer[layer]!
    if (which.length === 0) return
    const part = read(matrix, pick2(anchors.places, which))
    which.forEach((anchor, k) => {
      kept[anchor] = part.kept[k]!
      for (let c = 0; c < channels; c++) values[anchor * channels + c] = part.values[k * channels + c]!
    })
  })
  return { values, kept }
}

function layersInside(
  { picture, hidden }: GatherInput,
  anchors: RingAnchors,
  anchorLayers: Uint8Array,
  readings: readonly (readonly Readings[])[],
  joined: readonly Joined[],
  tolerances: readonly number[],
): Uint8Array {
  const costs = joined.map((layer, index) =>
    disagreement(
      readings.flatMap((frame) => frame[index] ?? []),
      layer,
      tolerances,
    ),
  )
  return chooseLayers({ hidden, costs, around: anchors.pixels, aroundLayers: anchorLayers }, picture.width, picture.height)
}

/** What is not known to be nearer may still hide a place on some frames: those that agree best are asked. */
const ASKED_SHARE = 0.5
/** So many frames, and this share of all, must have seen a place: few agree by chance. */
const FEWEST_ASKED = 3
const FEWEST_SHARE = 0.2
/** What it counts, in tolerances, that something else is seen where the place should be. */
const ELSEWHERE = 1.5

/** How far the frames are from what they say together, 0 to 1.5 tolerances; NaN where too few saw the place. */
function disagreement(readings: readonly Readings[], joined: Joined, tolerances: readonly number[]): Float32Array {
  const channels = tolerances.length
  const cost = new Float32Array(joined.seen.length).fill(NaN)
  const sorted = new Float64Array(readings.length)
  const fewest = Math.max(FEWEST_ASKED, FEWEST_SHARE * readings.length)
  for (let i = 0; i < cost.length; i++) {
    let count = 0
    for (const { values, kept } of readings) {
      if (kept[i]! <= 0 && kept[i] !== OTHER_LAYER) continue
      let off = ELSEWHERE * channels
      if (kept[i]! > 0) {
        off = 0
        for (let c = 0; c < channels; c++)
          off += Math.min(1.5, Math.abs(values[i * channels + c]! - joined.values[i * channels + c]!) / tolerances[c]!)
      }
      let at = count++
      for (; at > 0 && sorted[at - 1]! > off; at--) sorted[at] = sorted[at - 1]!
      sorted[at] = off
    }
    if (count < fewest) continue
    const asked = Math.max(FEWEST_ASKED, Math.ceil(ASKED_SHARE * count))
    let sum = 0
    for (let k = 0; k < asked; k++) sum += sorted[k]!
    cost[i] = sum / (asked * channels)
  }
  return cost
}

function byLayers(joined: readonly Joined[], layers: Uint8Array, channels: number): Joined {
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

function mergeReadings(readings: readonly Readings[], layers: Uint8Array, channels: number): Readings {
  if (readings.length === 1) return readings[0]!
  const out = { values: new Float32Array(layers.length * channels), kept: new Float32Array(layers.length) }
  layers.forEach((layer, i) => {
    const from = readings[layer] ?? readings[0]!
    out.kept[i] = readings[layer] ? from.kept[i]! : -1
    for (let c = 0; c < channels; c++) out.values[i * channels + c] = from.values[i * channels + c]!
  })
  return out
}

const nothing = (count: number, channels: number): Readings => ({
  values: new Float32Array(count * channels),
  kept: new Float32Array(count).fill(-1),
})

function strongest(readings: readonly Readings[], weights: readonly number[], frames: readonly number[], count: number): Int32Array {
  const from = new Int32Array(count).fill(-1)
  for (let i = 0; i < count; i++) {
    let most = 0
    readings.forEach(({ kept }, k) => {
      if (kept[i]! > 0 && weights[k]! > most) {
        most = weights[k]!
        from[i] = frames[k]!
      }
    })
  }
  return from
}

/** Mean share of the grain's variance that readings keep. */
function meanKept(kept: Float32Array): number {
  let [sum, count] = [0, 0]
  for (const one of kept) {
    if (one <= 0) continue
    sum += one
    count++
  }
  return count === 0 ? 1 : sum / count
}

function median(values: readonly number[]): number {
  const sorted = Float64Array.from(values).sort()
  return sorted[sorted.length >> 1] ?? 0
}
