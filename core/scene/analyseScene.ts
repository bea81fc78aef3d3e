/** Works out the motion of a shot's background: two passes over its frames, a handful of them in memory at a time. */
import { srgb } from '../colour/transfer'
import { compose, invert, apply, type Matrix3 } from '../geometry/transform'
import { log } from '../kernels/exact'
import { convolveSeparable } from '../image/convolve'
import { medianOf } from '../image/median'
import { wholePicture } from '../image/rect'
import type { Clip } from '../shot/clip'
import type { RunContext } from '../shot/context'
import { trackerPlane } from '../motion/input'
import { halved } from '../motion/window'
import type { Frame, FrameRange } from '../time'
import { CELL_PX, filledUp, labelCells, orderLayers, type HalfFrame, type LabelledCells } from './layerCells'
import { agreeLabels } from './layerMosaics'
import { findLayers, type SceneLayer } from './layers'
import { leftOutGrid, leftOutOn } from './leftOut'
import { runsFromCells } from './cellRuns'
import { SCENE_FORMAT, SCENE_VERSION, type Scene } from './scene'
import { pyramidOf, SceneFollower } from './trajectories'

export interface SceneRequest {
  readonly range: FrameRange
  /** Of a whole frame, 1 where mends cover it or hold it out: nothing is learnt from there. Null where nothing does. */
  readonly maskAt: (frame: Frame) => Promise<Uint8Array | null>
}

const SOFTEN = [0.25, 0.5, 0.25]
/** Layers must have drifted apart by so much before frames tell one from the other. */
const APART_PX = 3
const MAX_AWAY_FRAMES = 12

/** @returns null when it was stopped. Memory: some frames of half size, and the trajectories. */
export async function analyseScene(
  { range, maskAt }: SceneRequest,
  source: Clip,
  context: RunContext,
): Promise<Scene | null> {
  const { firstFrame, lastFrame } = range
  const { width, height } = source.plate
  const count = lastFrame - firstFrame + 1
  const follower = new SceneFollower()
  const leftOut: string[] = []
  const readPlanes = async (frame: Frame) => {
    const samples = await source.readRect(frame, wholePicture(source.plate))
    const plane = convolveSeparable(
      { ...trackerPlane(samples, { channel: 'all', boost: 0, degrainPx: 0 }), channels: 1 },
      SOFTEN,
      SOFTEN,
    )
    return { plane, masked: await maskAt(frame) }
  }
  for (let frame = firstFrame; frame <= lastFrame; frame++) {
    if (context.shouldStop()) return null
    const { plane, masked } = await readPlanes(frame)
    follower.advance({ frame, levels: pyramidOf(plane), masked })
    leftOut.push(leftOutOn(masked, width, height))
    context.onProgress?.(frame - firstFrame + 1, 2 * count)
  }
  const layers = findLayers(follower.trajectories, firstFrame, lastFrame)

  const window = new SlidingFrames(async (frame): Promise<HalfFrame> => {
    const { plane, masked } = await readPlanes(frame)
    return { plane: halved(plane), masked: masked && halvedMask(masked, width, height) }
  })
  const away = layers.length > 1 ? awayFor(layers, width, height) : 1
  const cellFrames: LabelledCells[] = []
  const stops: number[] = []
  for (let frame = firstFrame; frame <= lastFrame; frame++) {
    if (context.shouldStop()) return null
    window.forget(frame - away - 1)
    const here = await window.at(frame)
    const before = frame > firstFrame ? await window.at(frame - 1) : null
    stops.push(
      before
        ? stops[stops.length - 1]! +
            log(brightnessRatio(before, here, between(layers[0]!, frame, frame - 1, firstFrame))) / LN_2
        : 0,
    )
    if (layers.length > 1) {
      const others = [frame - away, frame + away].filter((other) => other >= firstFrame && other <= lastFrame)
      const neighbours = []
      for (const other of others) {
        const there = await window.at(other)
        const thereFromHere = layers.map((layer) => between(layer, frame, other, firstFrame))
        const hereFromThere = invert(thereFromHere[0]!)
        const gain = hereFromThere ? 1 / brightnessRatio(here, there, hereFromThere, true) : 1
        neighbours.push({ ...there, thereFromHere, gain })
      }
      const cells = labelCells(here, neighbours, layers.length)
      cellFrames.push(cells)
    }
    context.onProgress?.(count + frame - firstFrame + 1, 2 * count)
  }
  const agreed = agreeOn(layers, cellFrames)
  return {
    format: SCENE_FORMAT,
    version: SCENE_VERSION,
    plate: { width, height, firstFrame, frameCount: count },
    layers: layers.map(({ frameFromReference, sure, members }, layer) => ({
      motions: frameFromReference.map(
        (motion) =>
          [...motion].map((value) =>
            round(value, 9),
          ) as unknown as Scene['layers'][number]['motions'][number],
      ),
      sure: sure.map((value) => round(value, 3)),
      points: members.length,
      hiddenBy: agreed?.hiddenBy[layer] ?? [],
    })),
    exposureStops: stops.map((value) => round(value, 4)),
    leftOut: { ...leftOutGrid(width, height), frames: leftOut },
    cells: agreed && { ...agreed.grid, frames: agreed.frames.map(runsFromCells) },
  }
}

/** What hides what, and the layer of each cell, as all frames together tell them. */
function agreeOn(layers: readonly SceneLayer[], cells: readonly LabelledCells[]) {
  const [first] = cells
  if (!first) return null
  const grid = { cellPx: CELL_PX, cols: first.cols, rows: first.rows }
  const filled = cells.map((one) => filledUp(one.labels, one))
  const hiddenBy = orderOf(layers, filled, grid)
  const motions = layers.map(({ frameFromReference }) => frameFromReference)
  return { hiddenBy, grid, frames: agreeLabels(grid, filled, motions, hiddenBy) }
}

/** Frames so far apart are compared for what hides what. */
const ORDER_AWAY_FRAMES = 24

function orderOf(
  layers: readonly SceneLayer[],
  cells: readonly Uint8Array[],
  { cols, rows }: { cols: number; rows: number },
): number[][] {
  const away = Math.min(ORDER_AWAY_FRAMES, cells.length - 1)
  const pairs = []
  for (let i = 0; i + away < cells.length; i += Math.max(1, away >> 1)) {
    for (const [from, to] of [
      [i, i + away],
      [i + away, i],
    ] as const) {
      pairs.push({
        here: cells[from]!,
        there: cells[to]!,
        thereFromHere: layers.map((layer) => between(layer, from, to, 0)),
      })
    }
  }
  return orderLayers(layers.length, cols, rows, pairs)
}

const LN_2 = 0.6931471805599453

const round = (value: number, digits: number): number => Number(value.toFixed(digits))

const between = ({ frameFromReference }: SceneLayer, from: Frame, to: Frame, firstFrame: Frame): Matrix3 => {
  const back = invert(frameFromReference[from - firstFrame]!)
  return back ? compose(frameFromReference[to - firstFrame]!, back) : frameFromReference[0]!
}

function halvedMask(mask: Uint8Array, width: number, height: number): Uint8Array {
  const [halfWidth, halfHeight] = [(width + 1) >> 1, (height + 1) >> 1]
  const out = new Uint8Array(halfWidth * halfHeight)
  for (let row = 0; row < height; row++) {
    const [from, to] = [row * width, (row >> 1) * halfWidth]
    for (let col = 0; col < width; col++) if (mask[from + col] !== 0) out[to + (col >> 1)] = 1
  }
  return out
}

/** How many frames away the layers have drifted apart enough to be told from each other. */
function awayFor(layers: readonly SceneLayer[], width: number, height: number): number {
  const frames = layers[0]!.frameFromReference.length
  for (let away = 2; away < MAX_AWAY_FRAMES; away++) {
    let [sum, n] = [0, 0]
    for (let from = 0; from + away < frames; from += away) {
      const at = layers.map((layer) => apply(between(layer, from, from + away, 0), width / 2, height / 2))
      for (let i = 1; i < at.length; i++) {
        sum += Math.abs(at[i]!.x - at[0]!.x) + Math.abs(at[i]!.y - at[0]!.y)
        n++
      }
    }
    if (n > 0 && sum / n >= APART_PX) return away
  }
  return MAX_AWAY_FRAMES
}

/** How many times as bright a frame is as another; in the plate's own encoding, or in light. */
function brightnessRatio(from: HalfFrame, to: HalfFrame, fromTo: Matrix3, isEncoded = false): number {
  const { width, height, data } = to.plane
  const ratios: number[] = []
  const stride = Math.max(4, Math.floor(Math.sqrt((width * height) / 2500)))
  for (let row = 2; row < height - 2; row += stride) {
    for (let col = 2; col < width - 2; col += stride) {
      const at = apply(fromTo, 2 * col + 1, 2 * row + 1)
      const [x, y] = [Math.floor(at.x / 2), Math.floor(at.y / 2)]
      if (x < 0 || y < 0 || x >= width || y >= height) continue
      if ((to.masked?.[row * width + col] ?? 0) !== 0 || (from.masked?.[y * width + x] ?? 0) !== 0) continue
      const [here, there] = [data[row * width + col]!, from.plane.data[y * width + x]!]
      if (here < 0.03 || there < 0.03) continue
      ratios.push(isEncoded ? here / there : srgb.decode(here) / srgb.decode(there))
    }
  }
  if (ratios.length < 20) return 1
  return medianOf(ratios)
}

/** Frames of half size as long as they are wanted. */
class SlidingFrames {
  readonly #open: (frame: Frame) => Promise<HalfFrame>
  readonly #kept = new Map<Frame, HalfFrame>()
  constructor(open: (frame: Frame) => Promise<HalfFrame>) {
    this.#open = open
  }

  async at(frame: Frame): Promise<HalfFrame> {
    let one = this.#kept.get(frame)
    if (!one) this.#kept.set(frame, (one = await this.#open(frame)))
    return one
  }

  forget(before: Frame): void {
    for (const frame of this.#kept.keys()) if (frame < before) this.#kept.delete(frame)
  }
}
