/**
 * Which layer each part of a frame belongs to: the one through which it looks as it does a few frames earlier or later.
 * Either of the two is enough: what is hidden on one side is seen on the other.
 */
import { boxSums, slidingLeast } from '../image/windows'
import { apply, type Matrix3 } from '../geometry/transform'
import type { Plane } from '../image/raster'
import { warpProjective } from '../image/sample'
import { NO_LAYER } from './layerMap'

/** A frame at half size, with what of it shows something else. */
export interface HalfFrame {
  readonly plane: Plane
  /** 1 where a mend's area or holdout lies; of the half size. Null: nowhere. */
  readonly shut: Uint8Array | null
}

export interface Neighbour extends HalfFrame {
  /** For each layer, in px of the full size. */
  readonly thereFromHere: readonly Matrix3[]
  readonly gain: number
}

export const CELL_PX = 8
const HALF_CELL_PX = CELL_PX / 2
// Of the half size, to each side: what is averaged, and how far the window may lie off, so that edges are not widened.
const WINDOW_PX = 5
const SHIFT_PX = 5
/** The best must be better than the next by this share; otherwise neighbours decide. */
const CLEARLY = 0.65
const FILL_ROUNDS = 12

export function labelCells(here: HalfFrame, neighbours: readonly Neighbour[], layers: number): { cols: number; rows: number; labels: Uint8Array } {
  const { width, height } = here.plane
  const [cols, rows] = [Math.ceil(width / HALF_CELL_PX), Math.ceil(height / HALF_CELL_PX)]
  const costs = Array.from({ length: layers }, (_, layer) => cellCosts(here, neighbours, layer, cols, rows))
  const labels = new Uint8Array(cols * rows).fill(NO_LAYER)
  for (let cell = 0; cell < labels.length; cell++) {
    let [best, least, next] = [NO_LAYER, Infinity, Infinity]
    costs.forEach((cost, layer) => {
      const value = cost[cell]!
      if (value < least) [best, least, next] = [layer, value, least]
      else next = Math.min(next, value)
    })
    if (least < Infinity && least < CLEARLY * next) labels[cell] = best
  }
  return { cols, rows, labels: filledUp(labels, isShutCell(here, cols, rows), cols, rows) }
}

function cellCosts({ plane, shut }: HalfFrame, neighbours: readonly Neighbour[], layer: number, cols: number, rows: number): Float32Array {
  const { width, height } = plane
  const least = new Float32Array(cols * rows).fill(Infinity)
  for (const other of neighbours) {
    const halfMotion = halved(other.thereFromHere[layer]!)
    const moved = warpProjective({ ...other.plane, channels: 1 }, halfMotion, plane, 'bilinear')
    const [sum, known] = [new Float32Array(width * height), new Float32Array(width * height)]
    const [a, b, c, d, e, f, g, h, k] = halfMotion
    for (let row = 0, i = 0; row < height; row++) {
      for (let col = 0; col < width; col++, i++) {
        const w = 1 / (g * (col + 0.5) + h * (row + 0.5) + k)
        const [x, y] = [Math.floor((a * (col + 0.5) + b * (row + 0.5) + c) * w), Math.floor((d * (col + 0.5) + e * (row + 0.5) + f) * w)]
        if (x < 1 || y < 1 || x >= width - 1 || y >= height - 1) continue
        if (shut?.[i] === 1 || other.shut?.[y * width + x] === 1) continue
        sum[i] = Math.abs(other.gain * moved.data[i]! - plane.data[i]!)
        known[i] = 1
      }
    }
    const [sums, counts] = [boxSums(sum, width, height, WINDOW_PX), boxSums(known, width, height, WINDOW_PX)]
    for (let at = 0; at < sums.length; at++) sums[at] = counts[at]! > WINDOW_PX * WINDOW_PX ? sums[at]! / counts[at]! : Infinity
    const shifted = slidingLeast(sums, width, height, SHIFT_PX)
    for (let row = 0; row < rows; row++) {
      for (let col = 0; col < cols; col++) {
        const at = Math.min(height - 1, row * HALF_CELL_PX + HALF_CELL_PX / 2) * width + Math.min(width - 1, col * HALF_CELL_PX + HALF_CELL_PX / 2)
        least[row * cols + col] = Math.min(least[row * cols + col]!, shifted[at]!)
      }
    }
  }
  return least
}

/** The same transform between pictures of half the size. */
const halved = (m: Matrix3): Matrix3 => [m[0], m[1], m[2] / 2, m[3], m[4], m[5] / 2, m[6] * 2, m[7] * 2, m[8]]

function isShutCell({ plane, shut }: HalfFrame, cols: number, rows: number): Uint8Array {
  const out = new Uint8Array(cols * rows)
  if (!shut) return out
  for (let i = 0; i < shut.length; i++) {
    if (shut[i] === 1) out[Math.floor(Math.floor(i / plane.width) / HALF_CELL_PX) * cols + Math.floor((i % plane.width) / HALF_CELL_PX)] = 1
  }
  return out
}

/** Cells that do not tell take the label that most of their neighbours have; what is covered stays unknown. */
function filledUp(labels: Uint8Array, isShut: Uint8Array, cols: number, rows: number): Uint8Array {
  let now = labels
  for (let round = 0; round < FILL_ROUNDS; round++) {
    const next = now.slice()
    let isChanged = false
    for (let row = 0; row < rows; row++) {
      for (let col = 0; col < cols; col++) {
        const cell = row * cols + col
        if (now[cell] !== NO_LAYER || isShut[cell] === 1) continue
        const counts = new Map<number, number>()
        for (let y = Math.max(0, row - 1); y <= Math.min(rows - 1, row + 1); y++) {
          for (let x = Math.max(0, col - 1); x <= Math.min(cols - 1, col + 1); x++) {
            const label = now[y * cols + x]!
            if (label !== NO_LAYER) counts.set(label, (counts.get(label) ?? 0) + 1)
          }
        }
        const [most] = [...counts].sort((p, q) => q[1] - p[1] || p[0] - q[0])
        if (!most) continue
        next[cell] = most[0]
        isChanged = true
      }
    }
    now = next
    if (!isChanged) break
  }
  return now
}

const FEWEST_HIDDEN = 6 // cells
const ALIKE_PX = 4
const CLEARLY_MORE = 1.5

/**
 * Which layers pass in front of each: where a place goes out of sight, what is seen there instead is nearer.
 * @param cellsAt  Labels of the cells of a frame. @param frames  Pairs of frames to compare.
 */
export function orderLayers(
  layers: number,
  cols: number,
  rows: number,
  frames: readonly { readonly here: Uint8Array; readonly there: Uint8Array; readonly thereFromHere: readonly Matrix3[] }[],
): number[][] {
  const gone = Array.from({ length: layers }, () => new Array<number>(layers).fill(0))
  for (const { here, there, thereFromHere } of frames) {
    for (let row = 1; row < rows - 1; row++) {
      for (let col = 1; col < cols - 1; col++) {
        const label = here[row * cols + col]!
        if (label === NO_LAYER || !isPlain(here, row, col, cols)) continue
        const to = apply(thereFromHere[label]!, (col + 0.5) * CELL_PX, (row + 0.5) * CELL_PX)
        const [toCol, toRow] = [Math.floor(to.x / CELL_PX), Math.floor(to.y / CELL_PX)]
        if (toCol < 1 || toRow < 1 || toCol >= cols - 1 || toRow >= rows - 1) continue
        const seen = there[toRow * cols + toCol]!
        if (seen === NO_LAYER || seen === label || !isPlain(there, toRow, toCol, cols)) continue
        // Where both move alike, the one label is as good as the other.
        const other = apply(thereFromHere[seen]!, (col + 0.5) * CELL_PX, (row + 0.5) * CELL_PX)
        if ((other.x - to.x) * (other.x - to.x) + (other.y - to.y) * (other.y - to.y) > ALIKE_PX * ALIKE_PX) gone[label]![seen]!++
      }
    }
  }
  return gone.map((counts, layer) =>
    counts.flatMap((count, other) => (count >= FEWEST_HIDDEN && count > CLEARLY_MORE * gone[other]![layer]! ? [other] : [])),
  )
}

/** All cells around are of the same layer: edges of labels are not sure. */
function isPlain(labels: Uint8Array, row: number, col: number, cols: number): boolean {
  const label = labels[row * cols + col]!
  for (let y = row - 1; y <= row + 1; y++) for (let x = col - 1; x <= col + 1; x++) if (labels[y * cols + x] !== label) return false
  return true
}
