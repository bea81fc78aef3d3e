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
import type { Matrix3 } from '../geometry/transform'
import type { Raster } from '../image/raster'
import type { Rect } from '../image/rect'

export interface GatherInput {
  readonly frame: number
  readonly picture: Raster
  readonly rect: Rect
  /** Pixels of the crop to find out, in rising order, and pixels around them that show what is really there. */
  readonly hidden: Int32Array
  readonly around: Int32Array
  readonly frames: readonly GatherFrame[]
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
}

const MOST_ANCHORS = 6000
/** Layers of places around are told by so many frames at most. */
const FRAMES_FOR_LAYERS = 8

/** @returns null when it was stopped, or no frame lies over this one. */
export function gather(input: GatherInput): Gathered | null {
  const { picture, hidden, frames } = input
  const { channels } = picture
  const anchors = anchorsOf(input)
  const layerCount = frames.reduce((most, { layersFromHere }) => Math.max(most, layersFromHere.length), 1)
  const anchorLayers = layerCount > 1 ? layersAround(anchors, frames, channels, layerCount) : new Uint8Array(anchors.values.length)
  const byLayer = Array.from({ length: layerCount }, (_, layer) => indicesWhere(anchorLayers, (one) => one === layer))
  const hiddenPlaces = placesOf(input, hidden)
  const box = boxOf(anchors.places)

  const laid: { frame: GatherFrame; readings: Readings[]; field: ToneField; sure: number; thereFromHere: Matrix3; residual: number }[] = []
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
      const readings = matrices.map((matrix) => {
        const one = open.read(matrix, hiddenPlaces)
        relight(field, hiddenPlaces, one.values, channels)
        return one
      })
      const sure = motions[0]!.refined ? motions[0]!.refined.inside : 0.3
      return { frame, readings, field, sure, thereFromHere: matrices[0]!, residual }
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
  const layers = layerCount > 1 ? layersInside(input, anchors, anchorLayers, laid.map(({ readings }) => readings), joinedByLayer, tolerances) : new Uint8Array(hidden.length)
  const joined = byLayers(joinedByLayer, layers, channels)
  const readings = laid.map((one) => mergeReadings(one.readings, layers, channels))
  return {
    ...joined,
    layers,
    readings,
    weights,
    tolerances,
    from: strongest(readings, weights, laid.map(({ frame }) => frame.frame), hidden.length),
    reports: laid.map(({ frame, residual, thereFromHere, sure }) => ({ frame: frame.frame, sure: sure * Math.min(1, (1.5 * bestResidual) / residual), thereFromHere })),
  }
}

/** In deviations of the difference between two frames: beyond, it is something else. */
const TOLERANCE = 3.5
const HALF_WEIGHT_FRAMES = 24

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
    for (let dy = -1; dy <= 1; dy++) for (let at = (pixel + dy * width - 1) * channels; at < (pixel + dy * width + 2) * channels; at++) sum += data[at]!
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

/** The layer of each place around: the one through which the other frames show what this one shows. */
function layersAround(anchors: RingAnchors, frames: readonly GatherFrame[], channels: number, layerCount: number): Uint8Array {
  const costs = Array.from({ length: layerCount }, () => new Float32Array(anchors.values.length))
  const counts = Array.from({ length: layerCount }, () => new Float32Array(anchors.values.length))
  const stride = Math.max(1, Math.floor(frames.length / FRAMES_FOR_LAYERS))
  for (const [i, frame] of frames.entries()) {
    if (i % stride !== 0) continue
    withKernelMemory(openFrameBytes(frame, anchors.values.length), (scope) => {
      const open = openFrame(frame, scope)
      const seen = frame.layersFromHere.map((matrix) => {
        const { values, kept } = open.read(matrix, anchors.places)
        return { values: brightnessOf(values, channels), kept }
      })
      // One gain for the frame: only what moves differently shall count.
      const ratios = [...anchors.values.keys()].filter((k) => seen[0]!.kept[k]! > 0 && seen[0]!.values[k]! > 0.02).map((k) => anchors.values[k]! / seen[0]!.values[k]!)
      const gain = ratios.length > 0 ? median(ratios) : 1
      seen.forEach(({ values, kept }, layer) => {
        for (let k = 0; k < kept.length; k++) {
          if (kept[k]! <= 0) continue
          costs[layer]![k]! += Math.min(COST_CAP, Math.abs(gain * values[k]! - anchors.values[k]!))
          counts[layer]![k]!++
        }
      })
    })
  }
  return Uint8Array.from(anchors.values, (_, k) => {
    let [best, least] = [0, Infinity]
    for (let layer = 0; layer < layerCount; layer++) {
      if (counts[layer]![k] === 0) continue
      const cost = (costs[layer]![k]! / counts[layer]![k]!) * (layer === 0 ? 0.9 : 1)
      if (cost < least) [best, least] = [layer, cost]
    }
    return best
  })
}

const COST_CAP = 0.08

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
  const { channels } = picture
  const costs = joined.map((layer, index) => disagreement(readings.flatMap((frame) => frame[index] ?? []), layer, tolerances))
  return chooseLayers({ hidden, costs, around: anchors.pixels, aroundLayers: anchorLayers }, picture.width, picture.height)
}

/** A nearer layer may hide a place on half of the frames: only those that agree best are asked. */
const ASKED_SHARE = 0.5
const FEWEST_ASKED = 3

/** How far the frames are from what they say together, 0 to 1.5 tolerances; NaN where too few saw the place: two always agree. */
function disagreement(readings: readonly Readings[], joined: Joined, tolerances: readonly number[]): Float32Array {
  const channels = tolerances.length
  const cost = new Float32Array(joined.seen.length)
  const sorted = new Float64Array(readings.length)
  for (let i = 0; i < cost.length; i++) {
    let count = 0
    for (const { values, kept } of readings) {
      if (kept[i]! <= 0) continue
      let off = 0
      for (let c = 0; c < channels; c++) off += Math.min(1.5, Math.abs(values[i * channels + c]! - joined.values[i * channels + c]!) / tolerances[c]!)
      let at = count++
      for (; at > 0 && sorted[at - 1]! > off; at--) sorted[at] = sorted[at - 1]!
      sorted[at] = off
    }
    const asked = Math.max(FEWEST_ASKED, Math.ceil(ASKED_SHARE * count))
    if (count < FEWEST_ASKED) {
      cost[i] = NaN
      continue
    }
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

const nothing = (count: number, channels: number): Readings => ({ values: new Float32Array(count * channels), kept: new Float32Array(count).fill(-1) })

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

function median(values: readonly number[]): number {
  const sorted = Float64Array.from(values).sort()
  return sorted[sorted.length >> 1] ?? 0
}
