/**
 * Gathering the background: what other frames show of the places that something hides on this one.
 *
 * Every frame is laid over this one by the scene's motion, corrected on the plate around the area; its light is
 * brought to this frame's; then the frames are joined place by place. Where the scene has several layers, each place
 * belongs to the one through which the frames agree.
 */
import { brightnessOf, pick2, refineMotion, type Anchors } from './refine'
import { joinReadings, openFrame, openFrameBytes, type GatherFrame, type Joined, type Readings } from './reading'
import { byLayers, layersAt, layersInside, mergeReadings, shutOtherLayers } from './readingLayers'
import { fitToneField, relight } from './toneField'
import { withKernelMemory } from '../kernels/memory'
import type { Matrix3 } from '../geometry/transform'
import type { Raster } from '../image/raster'
import { medianOf } from '../image/median'
import type { Rect } from '../image/rect'
import type { LayerMap } from '../scene/layerMap'

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
  readonly laying: Laying
  readonly shouldStop: () => boolean
}

/** How frames are laid over this one. */
export interface Laying {
  /** Corrected on the plate around the area, or exactly as told. */
  readonly registers: boolean
  /** In this frame's light, or in their own. */
  readonly relights: boolean
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
/** Frames that are alike to the bit still differ by rounding, in the plate's scale. */
const LEAST_RESIDUAL = 1e-5
/** How sure a frame is that could not be corrected. */
const UNSURE = 0.3

/** Another frame, laid over this one. */
interface LaidFrame {
  readonly frame: GatherFrame
  /** What it shows of the hidden places through each layer. */
  readonly readings: Readings[]
  readonly sure: number
  readonly thereFromHere: Matrix3
  /** Deviation of what remains on the ring, for each channel and on the whole. */
  readonly residuals: readonly number[]
  readonly residual: number
  /** Share of the grain's variance that its readings keep. */
  readonly kept: number
}

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

  const laid: LaidFrame[] = []
  for (const frame of frames) {
    if (input.shouldStop()) return null
    const room = openFrameBytes(frame, Math.max(anchors.values.length, hidden.length))
    const done = withKernelMemory(room, (scope) => {
      const open = openFrame(frame, scope)
      const motions = frame.layersFromHere.map((start, layer) => ({
        start,
        refined: input.laying.registers ? refineMotion(anchors, byLayer[layer]!, open, start, channels) : null,
      }))
      const matrices = motions.map(({ start, refined }) => refined?.thereFromHere ?? start)
      const around = readByLayer(open.read, matrices, byLayer, anchors, channels)
      const field = fitToneField(anchors.places, anchors.all, around.values, around.kept, channels, box)
      // As told, it lies there whether anything around is seen in both or not.
      if (!field && input.laying.registers) return null
      const residuals = field?.residuals ?? new Array<number>(channels).fill(LEAST_RESIDUAL)
      const residual = Math.max(LEAST_RESIDUAL, residuals.reduce((sum, one) => sum + one, 0) / channels)
      const readings = matrices.map((matrix, layer) => {
        const one = open.read(matrix, hiddenPlaces)
        if (field && input.laying.relights) relight(field, hiddenPlaces, one.values, channels)
        shutOtherLayers(one, hiddenPlaces, matrices, layer, frame.layerMap)
        return one
      })
      const sure = input.laying.registers ? (motions[0]!.refined?.inside ?? UNSURE) : 1
      return { frame, readings, residuals, sure, thereFromHere: matrices[0]!, residual, kept: meanKept(around.kept) }
    })
    if (done) laid.push(done)
  }
  if (laid.length === 0) return null

  const bestResidual = Math.min(...laid.map(({ residual }) => residual))
  const weights = laid.map(({ frame, residual, sure }) => weightOf(Math.abs(frame.frame - input.frame), residual / bestResidual, sure))
  const tolerances = Array.from({ length: channels }, (_, c) => TOLERANCE * medianOf(laid.map(({ residuals }) => residuals[c]!)))
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
          { pixels: anchors.pixels, layers: anchorLayers },
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
    grainDeviations: Array.from({ length: channels }, (_, c) => medianOf(laid.map(({ residuals, kept }) => residuals[c]! / Math.sqrt(1 + kept)))),
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
