import { z } from 'zod'
import { labelled } from '../../parameter'
import { defineFill, knownPixels, ownValues, type FillInput } from '../method'
import type { Rect } from '../../image/rect'
import { discChords, medianGrid, type MedianGrid } from './discMedian'

const params = z.strictObject({
  radiusPx: labelled(z.number().min(0).max(64).default(25), {
    title: 'Radius',
    help: 'Radius of the disc whose median is taken; the area itself is left out of it. 0 shows the plate.',
    unit: 'px',
    step: 0.5,
  }),
})

/** Steps of the grid for a radius: an eighth of it, so that neighbouring discs share most of their pixels. */
const stepOf = (radiusPx: number): number => Math.max(1, Math.floor(radiusPx / 8))

/**
 * Median: the middle value of a disc around every pixel, pixels of the area left out. Edges that pass behind stay
 * edges. Between the nodes of a grid values run linearly.
 */
export const median = defineFill({
  id: 'median',
  version: 1,
  title: 'Median',
  summary:
    'The middle value of a disc, the area left out. Takes motes and specks off skies and walls and keeps edges; texture is lost.',
  source:
    'T. Huang, G. Yang, G. Tang, "A fast two-dimensional median filtering algorithm", IEEE Trans. ASSP 27(1), 1979.',
  params,
  needsPath: false,
  reach: ({ radiusPx }) => ({ marginPx: Math.ceil(radiusPx) + stepOf(radiusPx) + 1 }),

  run(input, { radiusPx }, context) {
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'Before it began.' }
    const { field, picture } = input
    const values = ownValues(input)
    const grainKept = new Float32Array(field.count).fill(1)
    const rect = boundsOfWanted(input)
    if (radiusPx < 1 || !rect) return { ok: true, values, grainKept }
    const grid = medianGrid(picture, knownPixels(input), discChords(radiusPx), rect, stepOf(radiusPx))
    if (!bridgeEmptyNodes(grid, picture.channels)) {
      return {
        ok: false,
        reason: 'nothing-known',
        detail: 'The disc reaches nothing but the area itself. Raise the radius, or choose another fill.',
      }
    }
    const kept = keptBy(radiusPx)
    for (let i = 0; i < field.count; i++) {
      if (input.wanted[i] === 0) continue
      readGrid(
        grid,
        picture.channels,
        field.pixels[i]! % picture.width,
        (field.pixels[i]! / picture.width) | 0,
        values,
        i,
      )
      grainKept[i] = kept
    }
    return { ok: true, values, grainKept }
  },
})

/** Variance of the median of n normal values, about π / 2n; the grid smooths it further. Any text on order statistics. */
const keptBy = (radiusPx: number): number => Math.min(1, 1 / (2 * radiusPx * radiusPx))

function boundsOfWanted({ field, wanted, picture }: FillInput): Rect | null {
  let [left, top, right, bottom] = [Infinity, Infinity, -1, -1]
  for (let i = 0; i < field.count; i++) {
    if (wanted[i] === 0) continue
    const col = field.pixels[i]! % picture.width
    const row = (field.pixels[i]! / picture.width) | 0
    left = Math.min(left, col)
    right = Math.max(right, col)
    top = Math.min(top, row)
    bottom = Math.max(bottom, row)
  }
  return right < 0 ? null : { col: left, row: top, width: right - left + 1, height: bottom - top + 1 }
}

/** Nodes whose disc is all area take the mean of their neighbours, ring by ring inwards. @returns false when none is known. */
function bridgeEmptyNodes({ cols, rows, values, counts }: MedianGrid, channels: number): boolean {
  const isKnown = Uint8Array.from(counts, (count) => (count > 0 ? 1 : 0))
  if (!isKnown.includes(1)) return false
  const sum = new Float64Array(channels)
  while (isKnown.includes(0)) {
    const before = isKnown.slice()
    for (let node = 0; node < before.length; node++) {
      if (before[node] === 1) continue
      sum.fill(0)
      let count = 0
      const [i, j] = [node % cols, (node / cols) | 0]
      for (let y = Math.max(0, j - 1); y <= Math.min(rows - 1, j + 1); y++) {
        for (let x = Math.max(0, i - 1); x <= Math.min(cols - 1, i + 1); x++) {
          if (before[y * cols + x] === 0) continue
          for (let c = 0; c < channels; c++) sum[c]! += values[(y * cols + x) * channels + c]!
          count++
        }
      }
      if (count === 0) continue
      for (let c = 0; c < channels; c++) values[node * channels + c] = sum[c]! / count
      isKnown[node] = 1
    }
  }
  return true
}

function readGrid(
  { col, row, cols, rows, step, values }: MedianGrid,
  channels: number,
  atCol: number,
  atRow: number,
  out: Float32Array,
  entry: number,
): void {
  const [u, v] = [(atCol - col) / step, (atRow - row) / step]
  const i = Math.min(Math.floor(u), Math.max(cols - 2, 0))
  const j = Math.min(Math.floor(v), Math.max(rows - 2, 0))
  const [fu, fv] = [u - i, v - j]
  const right = cols > 1 ? channels : 0
  const down = rows > 1 ? cols * channels : 0
  for (let c = 0; c < channels; c++) {
    const at = (j * cols + i) * channels + c
    const top = values[at]! + fu * (values[at + right]! - values[at]!)
    const bottom = values[at + down]! + fu * (values[at + down + right]! - values[at + down]!)
    out[entry * channels + c] = top + fv * (bottom - top)
  }
}
