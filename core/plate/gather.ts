/**
 * Gathering the background: what other frames show of the places that something hides on this one.
 *
 * Every frame is laid over this one by the scene's motion, corrected on the plate around the area; its light is
 * brought to this frame's; then the frames are joined place by place. Where the scene has several layers, each place
 * belongs to the one through which the frames agree.
 */
import { brightnessOf, pick2, refineMotion, type Anchors, type Refined } from './refine'
import {
  joinReadings,
  openFrame,
  openFrameBytes,
  type GatherFrame,
  type Joined,
  type Readings,
} from './reading'
import { inconsistent, findRimSamples, type RimSamples } from './rimConsistency'
import { compareRim, openRim, type ComparedRim, type Rim } from './rim'
import {
  BEHIND_SEEN,
  byLayers,
  layersAt,
  layersInside,
  mergeReadings,
  maskUncertain,
  maskOtherLayers,
} from './readingLayers'
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
  /** Pixels of the crop to find out, in rising order, and how deep in the area each lies, px. */
  readonly hidden: Int32Array
  readonly depths: Float32Array
  /** Pixels around them that show what is really there. */
  readonly around: Int32Array
  /** Of those around, the ones next to the hidden ones: compared with what is gathered. */
  readonly rim: Int32Array
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

const MAX_ANCHORS = 2400
/** Frames that are alike to the bit still differ by rounding, in the plate's scale. */
const MIN_RESIDUAL = 1e-5
/** How sure a frame is that could not be corrected. */
const UNSURE = 0.3

/** Another frame, laid over this one. */
interface LaidFrame {
  readonly frame: GatherFrame
  /** What it shows of the hidden places through each layer. */
  readonly readings: Readings[]
  /** Which of them may show a layer in front. */
  readonly doubts: Uint8Array[]
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
  const layerCount = frames.reduce((max, { layersFromHere }) => Math.max(max, layersFromHere.length), 1)
  const anchorLayers = layersAt(input.layerMap, anchors.places)
  const byLayer = Array.from({ length: layerCount }, (_, layer) =>
    indicesWhere(anchorLayers, (one) => one === layer),
  )
  // Hidden places first, then those of the rim.
  const asked = new Int32Array(hidden.length + input.rim.length)
  asked.set(hidden)
  asked.set(input.rim, hidden.length)
  const askedPlaces = placesOf(input, asked)
  const box = boxOf(anchors.places)

  const laid: LaidFrame[] = []
  for (const frame of frames) {
    if (input.shouldStop()) return null
    const room = openFrameBytes(frame, Math.max(anchors.values.length, asked.length))
    const done = withKernelMemory(room, (scope) => {
      const open = openFrame(frame, scope)
      const motions = frame.layersFromHere.map((start, layer) => ({
        start,
        refined:
          input.laying.registers && layerCount === 1
            ? refineMotion(anchors, byLayer[layer]!, open, start, channels)
            : null,
      }))
      const matrices = motions.map(({ start, refined }) => refined?.thereFromHere ?? start)
      const around = readByLayer(open.read, matrices, byLayer, anchors, channels)
      const field = fitToneField(anchors.places, anchors.all, around.values, around.kept, channels, box)
      // As told, it lies there whether anything around is seen in both or not.
      if (!field && input.laying.registers) return null
      const residuals = field?.residuals ?? new Array<number>(channels).fill(MIN_RESIDUAL)
      const residual = Math.max(MIN_RESIDUAL, residuals.reduce((sum, one) => sum + one, 0) / channels)
      const doubts: Uint8Array[] = []
      const readings = matrices.map((matrix, layer) => {
        const one = open.read(matrix, askedPlaces)
        if (field && input.laying.relights) relight(field, askedPlaces, one.values, channels)
        doubts.push(maskOtherLayers(one, askedPlaces, matrices, layer, frame.layerMap))
        return one
      })
      const sure = sureOf(input, layerCount, motions[0]!.refined, around.kept)
      return {
        frame,
        readings,
        doubts,
        residuals,
        sure,
        thereFromHere: matrices[0]!,
        residual,
        kept: meanKept(around.kept),
      }
    })
    if (done) laid.push(done)
  }
  if (laid.length === 0) return null

  const bestResidual = Math.min(...laid.map(({ residual }) => residual))
  const weights = laid.map(({ frame, residual, sure }) =>
    weightOf(Math.abs(frame.frame - input.frame), residual / bestResidual, sure),
  )
  const tolerances = Array.from(
    { length: channels },
    (_, c) => TOLERANCE * medianOf(laid.map(({ residuals }) => residuals[c]!)),
  )
  const grainDeviations = Array.from({ length: channels }, (_, c) =>
    medianOf(laid.map(({ residuals, kept }) => residuals[c]! / Math.sqrt(1 + kept))),
  )
  const rim = openRim(input.rim, picture)
  const rimSamples = findRimSamples(picture.width, hidden, input.depths, rim)
  maskInconsistent(input, laid, rim, rimSamples, grainDeviations)
  for (let layer = 0; layer < layerCount && layerCount > 1; layer++) {
    const those = laid.filter(({ readings }) => readings[layer])
    maskUncertain(
      those.map(({ readings }) => readings[layer]!),
      those.map(({ doubts }) => doubts[layer]!),
    )
  }
  const joinedByLayer = Array.from({ length: layerCount }, (_, layer) =>
    joinReadings(
      laid.map(({ readings }) => readings[layer] ?? nothing(asked.length, channels)),
      weights,
      tolerances,
    ),
  )
  // What is left agrees with each other; on this frame it may still be something else that is seen there.
  const together = joinedByLayer.map((joined, layer) => ({
    values: joined.values,
    kept: uncontradicted(joined, laid, layer),
  }))
  const told = input.layerMap && layersAt(input.layerMap, placesOf(input, input.rim))
  const compared = compareRim(rim, picture, together, hidden.length, grainDeviations, told)
  const inconsistency = inconsistent(rimSamples, compared.differs)
  const layers =
    layerCount > 1
      ? layersInside(
          input,
          knownLayers(input, anchors.pixels, anchorLayers, compared),
          laid.map(({ readings }) => readings),
          joinedByLayer,
          tolerances,
          layersAt(input.layerMap, placesOf(input, hidden)),
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
    grainDeviations,
    seen: inconsistency ? joined.seen.map((count, k) => (inconsistency[k] === 1 ? 0 : count)) : joined.seen,
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

/**
 * How sure a frame is. Where the scene has one layer it is corrected on the ring. Where it has several, they have been adjusted over the
 * whole shot: what little of each the ring shows, some of it told to the wrong one near its edge, would only make them worse.
 */
function sureOf(
  { laying }: GatherInput,
  layerCount: number,
  refined: Refined | null,
  kept: Float32Array,
): number {
  if (!laying.registers) return 1
  if (layerCount === 1) return refined?.inside ?? UNSURE
  let inside = 0
  for (const one of kept) if (one > 0) inside++
  return Math.max(UNSURE, inside / Math.max(1, kept.length))
}

/** Where a frame differs from this one on the rim, it shows something else inside too: it is not asked there. */
function maskInconsistent(
  { picture, hidden }: GatherInput,
  laid: readonly LaidFrame[],
  rim: Rim,
  rimSamples: RimSamples,
  deviations: readonly number[],
): void {
  for (const { frame, readings } of laid) {
    readings.forEach((reading, layer) => {
      const not = inconsistent(
        rimSamples,
        compareRim(rim, picture, [reading], hidden.length, deviations).differs,
      )
      // Nothing passes in front of the nearest layer: what differs there speaks against it.
      const isNearest = frame.layerMap?.hiddenBy[layer]?.length === 0
      not?.forEach((isNot, k) => {
        if (isNot === 1 && reading.kept[k] !== BEHIND_SEEN)
          reading.kept[k] = isNearest && reading.kept[k]! > 0 ? BEHIND_SEEN : -1
      })
    })
  }
}

/** How much of the grain's variance is left where frames show a place; −1 where none does, or more speak against it than show it. */
function uncontradicted({ variance, seen }: Joined, laid: readonly LaidFrame[], layer: number): Float32Array {
  return variance.map((left, k) => {
    let against = 0
    for (const { readings } of laid) if (readings[layer]?.kept[k] === BEHIND_SEEN) against++
    return seen[k]! > against ? left : -1
  })
}

/** Layers around the area: on the rim those through which the frames agree with the plate, further out as the scene has them. */
function knownLayers(
  { rim }: GatherInput,
  pixels: Int32Array,
  layers: Uint8Array,
  { best, differs }: ComparedRim,
): { pixels: Int32Array; layers: Uint8Array } {
  const isCompared = new Set(rim)
  const [outside, inside] = [
    indicesOf(pixels, (pixel) => !isCompared.has(pixel)),
    indicesOf(differs, (verdict) => verdict === 0),
  ]
  return {
    pixels: Int32Array.from([...outside.map((at) => pixels[at]!), ...inside.map((at) => rim[at]!)]),
    layers: Uint8Array.from([...outside.map((at) => layers[at]!), ...inside.map((at) => best[at]!)]),
  }
}

const indicesOf = (list: ArrayLike<number>, isWanted: (value: number) => boolean): number[] =>
  Array.from({ length: list.length }, (_, i) => i).filter((i) => isWanted(list[i]!))

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
  const stride = Math.max(1, Math.ceil(around.length / MAX_ANCHORS))
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
      for (let at = (pixel + dy * width - 1) * channels; at < (pixel + dy * width + 2) * channels; at++)
        sum += data[at]!
    return sum / (9 * channels)
  }
  pixels.forEach((pixel, k) => {
    slopesX[k] = (meanAt(pixel + 1) - meanAt(pixel - 1)) / 2
    slopesY[k] = (meanAt(pixel + width) - meanAt(pixel - width)) / 2
  })
  return {
    places: placesOf(input, pixels),
    values: brightnessOf(all, channels),
    slopesX,
    slopesY,
    all,
    pixels,
  }
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
  return {
    x: (left + right) / 2,
    y: (top + bottom) / 2,
    halfPx: Math.max(8, (right - left) / 2, (bottom - top) / 2),
  }
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

function strongest(
  readings: readonly Readings[],
  weights: readonly number[],
  frames: readonly number[],
  count: number,
): Int32Array {
  const from = new Int32Array(count).fill(-1)
  for (let i = 0; i < count; i++) {
    let max = 0
    readings.forEach(({ kept }, k) => {
      if (kept[i]! > 0 && weights[k]! > max) {
        max = weights[k]!
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
