/** Other frames registered with this one: where they lie over it, in which light, and how sure that is. */
import type { Matrix3 } from '../geometry/transform'
import { kernels } from '../kernels/module'
import type { KernelScope } from '../kernels/memory'
import type { Anchors } from './anchors'
import { openFrameLayers, markOtherLayers, type FrameLayers } from './frameLayers'
import {
  openFrame,
  type GatherFrame,
  type KernelFrame,
  type KernelPlaces,
  type ReadingPlanes,
} from './places'
import { refineMotion, type Refined } from './refine'
import { fitToneField, toneBytes, type ToneField } from './toneField'

/** How frames are registered with this one. */
export interface Registration {
  /** Corrected on the plate around the area, or exactly as told. */
  readonly registers: boolean
  /** In this frame's light, or in their own. */
  readonly relights: boolean
}

export interface RegisteredFrame {
  readonly frame: GatherFrame
  readonly open: KernelFrame
  /** Where places lie there, for each layer. */
  readonly matrices: readonly Matrix3[]
  readonly layers: FrameLayers | null
  readonly field: ToneField | null
  readonly sure: number
  /** Deviation of what remains on the ring, for each channel and on the whole. */
  readonly residuals: readonly number[]
  readonly residual: number
  /** Share of the grain's variance that its readings keep. */
  readonly kept: number
}

/** Frames that are alike to the bit still differ by rounding, in the plate's scale. */
const MIN_RESIDUAL = 1e-5
/** How sure a frame is that could not be corrected. */
const UNSURE = 0.3

/** The anchors of each layer: planes of their places, and which anchors they are. */
export interface AnchorGroup {
  readonly layer: number
  readonly places: KernelPlaces
  readonly indices: Int32Array
}

/**
 * Registers one frame.
 * @param at  Where the anchors are read to. @returns null when it does not lie over this one.
 */
export function registerFrame(
  scope: KernelScope,
  frame: GatherFrame,
  anchors: Anchors,
  groups: readonly AnchorGroup[],
  { registers, relights }: Registration,
  at: ReadingPlanes,
): RegisteredFrame | null {
  const open = openFrame(frame, scope)
  const isSingle = frame.layersFromHere.length === 1
  const refined =
    registers && isSingle && groups.length === 1
      ? refineMotion(anchors, open, frame.layersFromHere[0]!, at)
      : null
  const matrices = refined ? [refined.thereFromHere] : frame.layersFromHere
  readAnchors(open, matrices, groups, anchors, at)
  const field = fitToneField(anchors, at, scope.reserve(toneBytes(anchors.channels)))
  // As told, it lies there whether anything around is seen in both or not.
  if (!field && registers) return null
  const residuals = field?.residuals ?? new Array<number>(anchors.channels).fill(MIN_RESIDUAL)
  const { inside, kept } = readingStats(at, anchors.count)
  return {
    frame,
    open,
    matrices,
    layers: frame.layerMap ? openFrameLayers(scope, frame.layerMap, matrices) : null,
    field: relights ? field : null,
    residuals,
    residual: Math.max(MIN_RESIDUAL, residuals.reduce((sum, one) => sum + one, 0) / anchors.channels),
    sure: sureOf(registers, isSingle, refined, inside),
    kept,
  }
}

/** Each anchor through the layer that it shows. */
function readAnchors(
  open: KernelFrame,
  matrices: readonly Matrix3[],
  groups: readonly AnchorGroup[],
  { places, channels }: Anchors,
  at: ReadingPlanes,
): void {
  if (groups.length === 1 && groups[0]!.indices.length === 0) {
    open.readInto(at, places, matrices[groups[0]!.layer]!, null)
    return
  }
  const { buffer } = kernels().memory
  const [values, kept] = [
    new Float32Array(buffer, at.values, at.stride * channels),
    new Float32Array(buffer, at.kept, at.stride),
  ]
  const [own, ownKept] = [values.slice(), new Float32Array(at.stride).fill(-1)]
  for (const { layer, places: some, indices } of groups) {
    if (!matrices[layer]) continue
    open.readInto({ ...at, stride: some.count }, some, matrices[layer], null)
    for (let k = 0; k < indices.length; k++) {
      ownKept[indices[k]!] = kept[k]!
      for (let c = 0; c < channels; c++) own[c * at.stride + indices[k]!] = values[c * some.count + k]!
    }
  }
  values.set(own)
  kept.set(ownKept)
}

function readingStats({ kept }: ReadingPlanes, count: number): { inside: number; kept: number } {
  const shares = new Float32Array(kernels().memory.buffer, kept, count)
  let [sum, seen] = [0, 0]
  for (let k = 0; k < count; k++) {
    if (shares[k]! <= 0) continue
    sum += shares[k]!
    seen++
  }
  return { inside: seen / Math.max(1, count), kept: seen === 0 ? 1 : sum / seen }
}

/**
 * How sure a frame is. Where the scene has one layer it is corrected on the ring. Where it has several, they have been adjusted over the
 * whole shot: what little of each the ring shows, some of it told to the wrong one near its edge, would only make them worse.
 */
function sureOf(registers: boolean, isSingle: boolean, refined: Refined | null, inside: number): number {
  if (!registers) return 1
  return isSingle ? (refined?.inside ?? UNSURE) : Math.max(UNSURE, inside)
}

/** Reads places through one layer, in this frame's light where they show it. @param doubts  0 where nobody asks. */
export function readThroughLayer(
  { open, matrices, layers, field }: RegisteredFrame,
  layer: number,
  places: KernelPlaces,
  to: ReadingPlanes,
  doubts: number,
): void {
  const { buffer } = kernels().memory
  if (!matrices[layer]) {
    new Float32Array(buffer, to.kept, places.count).fill(-1)
    new Uint8Array(buffer, doubts, places.count).fill(0)
    return
  }
  if (layers) markOtherLayers(layers, layer, places, to.kept, doubts)
  else new Uint8Array(buffer, doubts, places.count).fill(0)
  open.readInto(to, places, matrices[layer], field?.tone ?? null, layers !== null)
}

/** In deviations of the difference between two frames: beyond, it is something else. */
export const TOLERANCE_DEVIATIONS = 3.5
const HALF_WEIGHT_FRAMES = 16

/** What a frame has to say: less the further away it is, and the worse it fits. */
export function weightsOf(frames: readonly RegisteredFrame[], here: number): number[] {
  const best = Math.min(...frames.map(({ residual }) => residual))
  return frames.map(({ frame, residual, sure }) => {
    const [away, misfit] = [(frame.frame - here) / HALF_WEIGHT_FRAMES, residual / best]
    // A frame that fits half as well has an eighth of the say.
    return sure / ((1 + away * away) * misfit * misfit * misfit)
  })
}
