/**
 * Gathering the background: what other frames show of the places that something hides on this one.
 *
 * Every frame is registered with this one by the scene's motion, corrected on the plate around the area; its light is
 * brought to this frame's; then the frames are joined place by place. Where the scene has several layers, each place
 * belongs to the one through which the frames agree.
 *
 * All of it happens on planes in kernel memory, a piece of the area at a time: what one frame shows of a piece lies in
 * the processor's cache when it is joined.
 */
import { medianOf } from '../image/median'
import { withKernelMemory, type KernelScope } from '../kernels/memory'
import { anchorPixels, anchorsBytes, openAnchors, type Anchors } from './anchors'
import { frameLayersBytes, layersOfPixels } from './frameLayers'
import type { Gathered, GatherInput, GatherStatistics, Readings } from './gatherInput'
import { layersInside, selectLayers } from './insideLayers'
import { joinedBytes, joiningBytes } from './join'
import { joinPieces, PIECE, pieceBytes } from './joinPieces'
import { openFrameBytes, padded, placesBytes, placesOfPixels, readingBytes } from './places'
import {
  registerFrame,
  TOLERANCE_DEVIATIONS,
  weightsOf,
  type AnchorGroup,
  type RegisteredFrame,
} from './registerFrames'
import { rimBytes } from './rim'
import { rimSamplesBytes } from './rimConsistency'
import { toneBytes } from './toneField'

/** @returns null when it was stopped, or no frame lies over this one. */
export function gather(input: GatherInput): Gathered | null {
  const pixels = anchorPixels(input.around, input.picture)
  const anchorLayers = layersOfPixels(input.layerMap, pixels, input.rect)
  const layerCount = input.frames.reduce((max, { layersFromHere }) => Math.max(max, layersFromHere.length), 1)
  const joined = withKernelMemory(bytesFor(input, pixels.length, layerCount), (scope) => {
    const anchors = openAnchors(scope, pixels, input.picture, input.rect)
    const frames = registerAll(scope, input, anchors, anchorLayers, layerCount)
    if (!frames || frames.length === 0) return null
    const statistics = statisticsOf(frames, input)
    return { frames, statistics, ...joinPieces(scope, input, frames, layerCount, statistics) }
  })
  if (!joined || input.shouldStop()) return null
  const { frames, statistics, layers: byLayer, comparison, inconsistent, readings } = joined
  const { channels } = input.picture
  const layers =
    layerCount > 1
      ? layersInside(input, { pixels, layers: anchorLayers }, byLayer, comparison)
      : new Uint8Array(input.hidden.length)
  const selected = selectLayers(byLayer, layers, channels)
  const best = Math.min(...frames.map(({ residual }) => residual))
  return {
    ...selected,
    layers,
    ...statistics,
    seen: inconsistent ? selected.seen.map((count, k) => (inconsistent[k] === 1 ? 0 : count)) : selected.seen,
    from: selected.from.map((index) => (index < 0 ? -1 : frames[index]!.frame.frame)),
    readings: readings.map((ofFrame) => selectReadings(ofFrame, layers, channels)),
    reports: frames.map(({ frame, residual, sure, matrices }) => ({
      frame: frame.frame,
      sure: sure * Math.min(1, (1.5 * best) / residual),
      thereFromHere: matrices[0]!,
    })),
  }
}

function bytesFor(
  { hidden, rim, frames, picture }: GatherInput,
  anchors: number,
  layerCount: number,
): number {
  const { channels } = picture
  const crops = frames.reduce(
    (sum, frame) =>
      sum + openFrameBytes(frame) + frameLayersBytes(frame.layerMap, layerCount) + toneBytes(channels) + 256,
    0,
  )
  return (
    crops +
    anchorsBytes(anchors, channels) +
    placesBytes(anchors) * 2 +
    readingBytes(padded(anchors), channels) +
    rimBytes(rim.length, channels) +
    rimSamplesBytes(hidden.length) +
    placesBytes(hidden.length + PIECE) +
    placesBytes(rim.length) +
    layerCount * (joinedBytes(padded(hidden.length), channels) + 4 * padded(hidden.length)) +
    joiningBytes(frames.length, channels) +
    pieceBytes(frames.length, layerCount, rim.length, channels) +
    (1 << 16)
  )
}

/** @returns Those that lie over this frame; null when it was stopped. */
function registerAll(
  scope: KernelScope,
  input: GatherInput,
  anchors: Anchors,
  anchorLayers: Uint8Array,
  layerCount: number,
): RegisteredFrame[] | null {
  const { places, channels } = anchors
  const groups = groupsOf(scope, input, anchors, anchorLayers, layerCount)
  const at = {
    values: scope.reserve(4 * places.count * channels),
    kept: scope.reserve(4 * places.count),
    stride: places.count,
  }
  const frames: RegisteredFrame[] = []
  for (const [i, frame] of input.frames.entries()) {
    if (input.shouldStop()) return null
    input.onProgress?.(i, input.frames.length)
    const registered = registerFrame(scope, frame, anchors, groups, input.registration, at)
    if (registered) frames.push(registered)
  }
  return frames
}

/** One layer is read as it lies; of several, each has places of its own. */
function groupsOf(
  scope: KernelScope,
  { rect }: GatherInput,
  anchors: Anchors,
  labels: Uint8Array,
  layerCount: number,
): AnchorGroup[] {
  if (layerCount === 1) return [{ layer: 0, places: anchors.places, indices: new Int32Array(0) }]
  return Array.from({ length: layerCount }, (_, layer) => {
    const indices = Int32Array.from(labels.keys()).filter((k) => labels[k] === layer)
    const pixels = indices.map((k) => anchors.pixels[k]!)
    return { layer, indices, places: placesOfPixels(scope, pixels, rect) }
  }).filter(({ indices }) => indices.length > 0)
}

function statisticsOf(frames: readonly RegisteredFrame[], { frame, picture }: GatherInput): GatherStatistics {
  const channels = Array.from({ length: picture.channels }, (_, c) => c)
  return {
    weights: weightsOf(frames, frame),
    tolerances: channels.map(
      (c) => TOLERANCE_DEVIATIONS * medianOf(frames.map(({ residuals }) => residuals[c]!)),
    ),
    grainDeviations: channels.map((c) =>
      medianOf(frames.map(({ residuals, kept }) => residuals[c]! / Math.sqrt(1 + kept))),
    ),
  }
}

/** Of what one frame shows through each layer, what it shows through each place's own. */
function selectReadings(ofFrame: readonly Readings[], layers: Uint8Array, channels: number): Readings {
  if (ofFrame.length === 1) return ofFrame[0]!
  const out = { values: new Float32Array(layers.length * channels), kept: new Float32Array(layers.length) }
  for (let i = 0; i < layers.length; i++) {
    const { values, kept } = ofFrame[layers[i]!]!
    out.kept[i] = kept[i]!
    for (let c = 0; c < channels; c++) out.values[i * channels + c] = values[i * channels + c]!
  }
  return out
}
