/** Reading and joining an area piece by piece, through every layer of the scene, with what its rim says of each frame. */
import { kernels } from '../kernels/module'
import type { KernelScope } from '../kernels/memory'
import { BEHIND_SEEN, layersOfPixels } from './frameLayers'
import type { GatherInput, GatherStatistics, Readings } from './gatherInput'
import {
  joinedFrom,
  joinInto,
  openJoining,
  reserveJoined,
  type FrameReadings,
  type Joining,
  type JoinedPlanes,
} from './join'
import { padded, placesOfPixels, type KernelPlaces } from './places'
import { readThroughLayer, type RegisteredFrame } from './registerFrames'
import { beginComparison, compareShown, endComparison, openRim, readComparison, type Rim } from './rim'
import { findRimSamples, readVote, vote, type RimSamples } from './rimConsistency'

/** Hidden places at a time: 24 frames of three channels take 1.6 MB, which stays in the processor's cache. */
export const PIECE = 4096

/** What frames say of the hidden places through one layer, as plain arrays: planes, one for each channel. */
export interface JoinedLayers {
  readonly values: Float32Array
  readonly variance: Float32Array
  readonly seen: Float32Array
  readonly agree: Float32Array
  readonly from: Int32Array
  /** How badly the frames agree, NaN where too few tell; only where there are several layers. */
  readonly costs: Float32Array | null
  readonly stride: number
}

export interface JoinedPieces {
  readonly layers: readonly JoinedLayers[]
  /** What the rim says of all frames together. */
  readonly comparison: { readonly best: Uint8Array; readonly differs: Uint8Array }
  /** 1 for each hidden place where all frames together show something else than this one; null where none is. */
  readonly inconsistent: Uint8Array | null
  /** For each frame and layer; empty unless asked for. */
  readonly readings: readonly (readonly Readings[])[]
}

const bufferStride = (rimCount: number): number => Math.max(PIECE, padded(rimCount))

export const pieceBytes = (
  frames: number,
  layerCount: number,
  rimCount: number,
  channels: number,
): number => {
  const stride = bufferStride(rimCount)
  return (
    frames * stride * (4 * channels + 4 + 1) +
    2 * frames * layerCount * rimCount +
    layerCount * (padded(rimCount) * 4 * (channels + 4) + 512) +
    4 * padded(rimCount) +
    (1 << 14)
  )
}

/** What every step of joining needs. */
interface Work {
  readonly input: GatherInput
  readonly frames: readonly RegisteredFrame[]
  readonly layerCount: number
  readonly joining: Joining
  readonly buffer: FrameReadings & { readonly doubts: number }
}

export function joinPieces(
  scope: KernelScope,
  input: GatherInput,
  frames: readonly RegisteredFrame[],
  layerCount: number,
  { weights, tolerances, grainDeviations }: GatherStatistics,
): JoinedPieces {
  const { channels } = input.picture
  const stride = bufferStride(input.rim.length)
  const buffer = {
    values: scope.reserve(4 * frames.length * stride * channels),
    kept: scope.reserve(4 * frames.length * stride),
    doubts: scope.reserve(frames.length * stride),
    frames: frames.length,
    stride,
    channels,
  }
  const work: Work = {
    input,
    frames,
    layerCount,
    joining: openJoining(scope, weights, tolerances),
    buffer,
  }
  const rim = openRim(scope, input.rim, input.picture)
  const samples = findRimSamples(scope, input.picture, input.hidden, input.depths, rim)
  const joinedRim = readRim(scope, work, rim, samples, grainDeviations)
  const { planes, costs, readings } = joinHidden(scope, work, samples, joinedRim.votes)
  const layers = planes.map((plane, layer) => plainLayer(plane, channels, costs[layer] ?? null))
  return { layers, readings, ...joinedRim }
}

/** Reads places of all frames through one layer into the buffer. */
function readLayer({ frames, buffer }: Work, layer: number, places: KernelPlaces): void {
  const { values, kept, doubts, stride, channels } = buffer
  frames.forEach((frame, f) => {
    const to = { values: values + 4 * f * stride * channels, kept: kept + 4 * f * stride, stride }
    readThroughLayer(frame, layer, places, to, doubts + f * stride)
  })
}

/** So many frames must show a place beyond doubt for doubtful readings of it to be left out. */
const ENOUGH_SURE = 3

const maskUncertain = ({ buffer, layerCount }: Work, count: number): void => {
  if (layerCount > 1)
    kernels().maskUncertain(buffer.kept, buffer.doubts, buffer.frames, count, buffer.stride, ENOUGH_SURE)
}

/** Where one frame differs from this one on the rim: for each frame and layer its votes on the hidden places; null where it does not. */
type Votes = readonly (readonly (Uint8Array | null)[])[]

function readRim(
  scope: KernelScope,
  work: Work,
  rim: Rim,
  samples: RimSamples,
  deviations: readonly number[],
) {
  const { input, frames, layerCount, buffer } = work
  const places = placesOfPixels(scope, rim.pixels, input.rect)
  const votes: (Uint8Array | null)[][] = frames.map(() => [])
  const joined: JoinedPlanes[] = []
  const against: Float32Array[] = []
  for (let layer = 0; layer < layerCount; layer++) {
    readLayer(work, layer, places)
    frames.forEach((_, f) => {
      beginComparison(rim, deviations)
      compareShown(rim, planesOf(buffer, f), 0)
      const isVoted = vote(samples, rim.verdicts, endComparison(rim))
      votes[f]!.push(
        isVoted
          ? new Uint8Array(kernels().memory.buffer, samples.inconsistent, samples.groups).slice()
          : null,
      )
    })
    maskUncertain(work, places.count)
    const planes = reserveJoined(scope, places.count, buffer.channels)
    joinInto(planes, buffer, work.joining, places.count)
    joined.push(planes)
    against.push(countAgainst(buffer, rim.count))
  }
  // What is left agrees with each other; on this frame it may still be something else that is seen there.
  const told = input.layerMap ? scope.pointerTo(layersOfPixels(input.layerMap, rim.pixels, input.rect)) : 0
  beginComparison(rim, deviations)
  joined.forEach((planes, layer) => {
    hideContradicted(planes, against[layer]!, rim.count)
    compareShown(rim, { values: planes.values, kept: planes.variance, stride: planes.stride }, layer, told)
  })
  const isVoted = vote(samples, rim.verdicts, endComparison(rim))
  return { votes, comparison: readComparison(rim), inconsistent: isVoted ? readVote(samples) : null }
}

const planesOf = ({ values, kept, stride, channels }: FrameReadings, f: number) => ({
  values: values + 4 * f * stride * channels,
  kept: kept + 4 * f * stride,
  stride,
})

/** How many frames speak against each place. */
function countAgainst({ kept, frames, stride }: FrameReadings, count: number): Float32Array {
  const out = new Float32Array(count)
  for (let f = 0; f < frames; f++) {
    const shares = new Float32Array(kernels().memory.buffer, kept + 4 * f * stride, count)
    for (let k = 0; k < count; k++) if (shares[k] === BEHIND_SEEN) out[k]!++
  }
  return out
}

/** A place counts as shown only where more frames show it than speak against it. */
function hideContradicted({ variance, seen }: JoinedPlanes, against: Float32Array, count: number): void {
  const { buffer } = kernels().memory
  const [left, shown] = [new Float32Array(buffer, variance, count), new Float32Array(buffer, seen, count)]
  for (let k = 0; k < count; k++) if (shown[k]! <= against[k]!) left[k] = -1
}

/** Only disagreement beyond this counts, of so many frames at least; what speaks against a place counts as so many tolerances. */
const DISAGREEMENT = { max: 1.5, askedShare: 0.5, minAsked: 3, minShare: 0.2, elsewhere: 1.5 } as const

function joinHidden(scope: KernelScope, work: Work, samples: RimSamples, votes: Votes) {
  const { input, layerCount, frames, buffer } = work
  const { hidden } = input
  const stride = padded(hidden.length)
  const planes = Array.from({ length: layerCount }, () => reserveJoined(scope, stride, buffer.channels))
  const costs = layerCount > 1 ? planes.map(() => scope.reserve(4 * stride)) : []
  const readings = input.keepsReadings
    ? frames.map(() =>
        planes.map(() => ({
          values: new Float32Array(hidden.length * buffer.channels),
          kept: new Float32Array(hidden.length),
        })),
      )
    : []
  for (let begin = 0; begin < hidden.length; begin += PIECE) {
    if (input.shouldStop()) break
    const end = Math.min(hidden.length, begin + PIECE)
    const places = placesOfPixels(scope, hidden, input.rect, begin, end)
    for (let layer = 0; layer < layerCount; layer++) {
      readLayer(work, layer, places)
      maskVotes(work, samples, votes, layer, begin, end)
      maskUncertain(work, places.count)
      joinInto(joinedFrom(planes[layer]!, begin), buffer, work.joining, places.count)
      const cost = costs[layer]
      if (cost !== undefined) disagreementInto(cost + 4 * begin, planes[layer]!, begin, work, places.count)
      readings.forEach((ofFrame, f) => copyReadings(ofFrame[layer]!, buffer, f, begin, end))
    }
  }
  return { planes, costs, readings }
}

/** Where a frame differs from this one on the rim, it shows something else inside too: it is not asked there. */
function maskVotes(
  { frames, buffer }: Work,
  samples: RimSamples,
  votes: Votes,
  layer: number,
  begin: number,
  end: number,
): void {
  frames.forEach(({ frame }, f) => {
    const ofFrame = votes[f]![layer]
    if (!ofFrame) return
    new Uint8Array(kernels().memory.buffer, samples.inconsistent, samples.groups).set(ofFrame)
    // Nothing passes in front of the nearest layer: what differs there speaks against it.
    const isNearest = frame.layerMap?.hiddenBy[layer]?.length === 0
    const kept = buffer.kept + 4 * f * buffer.stride
    kernels().maskInconsistent(
      kept,
      samples.groupOf + 4 * begin,
      samples.inconsistent,
      end - begin,
      isNearest,
    )
  })
}

function disagreementInto(
  costs: number,
  planes: JoinedPlanes,
  begin: number,
  { buffer, joining }: Work,
  count: number,
): void {
  const { max, askedShare, minAsked, minShare, elsewhere } = DISAGREEMENT
  const enough = Math.max(minAsked, minShare * buffer.frames)
  // prettier-ignore
  kernels().measureDisagreement(
    buffer.values, buffer.kept, buffer.frames, count, buffer.stride, buffer.channels, joining.tolerances,
    planes.values + 4 * begin, planes.stride, joining.network, joining.exchanges, joining.scratch,
    max, askedShare, minAsked, enough, elsewhere, costs,
  )
}

function copyReadings(to: Readings, buffer: FrameReadings, f: number, begin: number, end: number): void {
  const from = planesOf(buffer, f)
  const memory = kernels().memory.buffer
  to.kept.set(new Float32Array(memory, from.kept, end - begin), begin)
  for (let c = 0; c < buffer.channels; c++) {
    const plane = new Float32Array(memory, from.values + 4 * c * buffer.stride, end - begin)
    for (let k = 0; k < plane.length; k++) to.values[(begin + k) * buffer.channels + c] = plane[k]!
  }
}

function plainLayer(planes: JoinedPlanes, channels: number, costs: number | null): JoinedLayers {
  const { buffer } = kernels().memory
  const { stride } = planes
  const floats = (at: number, length = stride) => new Float32Array(buffer, at, length).slice()
  return {
    values: floats(planes.values, stride * channels),
    variance: floats(planes.variance),
    seen: floats(planes.seen),
    agree: floats(planes.agree),
    from: new Int32Array(buffer, planes.from, stride).slice(),
    costs: costs === null ? null : floats(costs),
    stride,
  }
}
