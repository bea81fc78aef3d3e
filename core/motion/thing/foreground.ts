/**
 * What of a frame is foreground: how far each place is from what other frames show of the background there.
 *
 * The background is what most of some frames spread through the shot show, brought together by the scene's motion: the middle of the narrowest
 * half of their values. What differs among them by itself (parallax, leaves, grain) needs to differ by more. Source: the shortest half, P. Rousseeuw,
 * "Least median of squares regression", JASA 79, 1984.
 */
import type { Matrix3 } from '../../geometry/transform'
import { medianOf } from '../../image/median'
import { createPlane, type Plane, type Raster } from '../../image/raster'
import { sampleManyInto } from '../../image/sample'
import type { Rect } from '../../image/rect'
import { withKernelMemory } from '../../kernels/memory'
import { CELL_CHANNELS } from './cells'

/** A frame that shows the background. */
export interface BackgroundFrame {
  readonly cells: Raster
  /** From the frame looked at to this one, px. */
  readonly motion: Matrix3
  /** 1 for each of its cells that the thing may cover. */
  readonly masked: Uint8Array
}

/** Fewer tell nothing of a place. */
const MIN_FRAMES = 3
/** A difference that tells nothing, whatever the spread: light, coding and reading between cells. 0 to 1. */
const FLOOR = 0.025
/** From half of the narrowest half's width to the standard deviation of a normal distribution. */
const HALF_TO_SIGMA = 1.4826
/** So many times what tells nothing is surely foreground. */
const SURELY = 3

/**
 * @param part  The cells asked for. @param cellPx  Side of a cell.
 * @returns 0 (as the background) to 1 (surely something else) for each cell of `part`; 0 where too few frames show it.
 */
export function foregroundOf(
  cells: Raster,
  part: Rect,
  cellPx: number,
  frames: readonly BackgroundFrame[],
): Plane {
  const out = createPlane(part.width, part.height)
  const seen = frames.map((frame) => readFrame(frame, part, cellPx))
  const background = backgroundOf(seen, out.data.length)
  const gain = gainOf(cells, part, background)
  for (let row = 0, i = 0; row < part.height; row++) {
    let at = ((row + part.row) * cells.width + part.col) * CELL_CHANNELS
    for (let col = 0; col < part.width; col++, i++) {
      let max = 0
      for (let c = 0; c < CELL_CHANNELS; c++, at++) {
        const [median, spread] = [background.medians[3 * i + c]!, background.spreads[3 * i + c]!]
        const off = cells.data[at]! - gain * median
        const ratio = (off < 0 ? -off : off) / (FLOOR + 2 * spread)
        if (ratio > max) max = ratio
      }
      const share = (max - 1) / (SURELY - 1)
      if (background.counts[i]! >= MIN_FRAMES && share > 0) out.data[i] = share < 1 ? share : 1
    }
  }
  return out
}

/** What one frame shows of each cell; `shows` is 0 where it shows nothing. */
interface Seen {
  readonly values: Float32Array
  readonly shows: Uint8Array
}

function readFrame({ cells, motion, masked }: BackgroundFrame, part: Rect, cellPx: number): Seen {
  const count = part.width * part.height
  const [places, shows] = [new Float32Array(2 * count), new Uint8Array(count)]
  const { width, height } = cells
  for (let row = 0, i = 0; row < part.height; row++) {
    const y = (row + part.row + 0.5) * cellPx
    for (let col = 0; col < part.width; col++, i++) {
      const x = (col + part.col + 0.5) * cellPx
      const below = cellPx * (motion[6] * x + motion[7] * y + motion[8])
      const u = (motion[0] * x + motion[1] * y + motion[2]) / below
      const v = (motion[3] * x + motion[4] * y + motion[5]) / below
      places[2 * i] = u
      places[2 * i + 1] = v
      if (u >= 0 && v >= 0 && u < width && v < height && masked[(v | 0) * width + (u | 0)] === 0) shows[i] = 1
    }
  }
  const values = new Float32Array(CELL_CHANNELS * count)
  const bytes = cells.data.byteLength + places.byteLength + values.byteLength
  withKernelMemory(bytes, (scope) => sampleManyInto(values, cells, places, 'bilinear', scope))
  return { values, shows }
}

/** Median and spread of what the frames show, of each channel of each cell, and how many frames show it. */
interface Background {
  readonly medians: Float32Array
  readonly spreads: Float32Array
  readonly counts: Uint8Array
}

function backgroundOf(seen: readonly Seen[], count: number): Background {
  const medians = new Float32Array(CELL_CHANNELS * count)
  const spreads = new Float32Array(CELL_CHANNELS * count)
  const counts = new Uint8Array(count)
  const values = new Float32Array(seen.length)
  for (let i = 0; i < count; i++) {
    for (let c = 0; c < CELL_CHANNELS; c++) {
      let n = 0
      for (const one of seen) if (one.shows[i] === 1) values[n++] = one.values[CELL_CHANNELS * i + c]!
      counts[i] = n
      if (n < MIN_FRAMES) break
      sortFirst(values, n)
      // The narrowest half of all values: the thing may hide the place on nearly as many frames as show it.
      const half = (n >> 1) + 1
      let begin = 0
      for (let k = 1; k + half <= n; k++)
        if (values[k + half - 1]! - values[k]! < values[begin + half - 1]! - values[begin]!) begin = k
      medians[CELL_CHANNELS * i + c] = values[begin + (half >> 1)]!
      spreads[CELL_CHANNELS * i + c] = (HALF_TO_SIGMA * (values[begin + half - 1]! - values[begin]!)) / 2
    }
  }
  return { medians, spreads, counts }
}

/** By insertion: there are few. */
function sortFirst(values: Float32Array, count: number): void {
  for (let i = 1; i < count; i++) {
    const value = values[i]!
    let at = i - 1
    for (; at >= 0 && values[at]! > value; at--) values[at + 1] = values[at]!
    values[at + 1] = value
  }
}

/** Every so manieth cell tells how much brighter the frame is than the others. */
const GAIN_EVERY = 23
const DARKEST = 0.05
const GREEN = 1

/** How many times as bright the frame is as the background of the others: light that flickers is no foreground. */
function gainOf(cells: Raster, part: Rect, { medians, counts }: Background): number {
  const ratios: number[] = []
  for (let i = 0; i < counts.length; i += GAIN_EVERY) {
    const median = medians[CELL_CHANNELS * i + GREEN]!
    if (counts[i]! < MIN_FRAMES || median <= DARKEST) continue
    const row = Math.floor(i / part.width)
    const col = i - row * part.width + part.col
    ratios.push(cells.data[((row + part.row) * cells.width + col) * CELL_CHANNELS + GREEN]! / median)
  }
  return ratios.length === 0 ? 1 : medianOf(ratios)
}
