/** The median of a disc around every place of a grid, with pixels left out. */
import type { Raster } from '../../image/raster'
import type { Rect } from '../../image/rect'
import { kernels } from '../../kernels/module'
import { withKernelMemory } from '../../kernels/memory'

/** Medians at the nodes (col + i step, row + j step) of a grid, channels interleaved. */
export interface MedianGrid {
  readonly col: number
  readonly row: number
  readonly cols: number
  readonly rows: number
  readonly step: number
  readonly values: Float32Array
  /** Known pixels that each node's disc holds; where it is 0 the value is 0 too. */
  readonly counts: Int32Array
}

const BINS = 4096 + 64

/** How far each row of a disc reaches to either side: rows −radius to radius. */
export function discChords(radiusPx: number): Int32Array {
  const radius = Math.floor(radiusPx)
  return Int32Array.from({ length: 2 * radius + 1 }, (_, i) =>
    Math.floor(Math.sqrt(radiusPx * radiusPx - (i - radius) * (i - radius))),
  )
}

/**
 * @param known   1 for each pixel that counts.
 * @param chords  The window, row by row: see `discChords`.
 * @param rect    Where medians are wanted, in pixels of the raster; the grid covers it.
 * Values are ranked in 4080 steps of the range 0 to 1 (8-bit samples keep steps of their own); beyond it they are cut.
 * Cost: proportional to radius × step for each node: with a step that grows with the radius, the same for every radius.
 * Source: T. Huang et al., "A fast two-dimensional median filtering algorithm", IEEE Trans. ASSP 27(1), 1979;
 * checked against opencv-js medianBlur and a plain twin (median.test.ts).
 */
export function medianGrid(
  raster: Raster,
  known: Uint8Array,
  chords: Int32Array,
  rect: Rect,
  step: number,
): MedianGrid {
  const { width, height, channels, data } = raster
  const radius = (chords.length - 1) / 2
  const cols = Math.ceil((rect.width - 1) / step) + 1
  const rows = Math.ceil((rect.height - 1) / step) + 1
  const nodes = cols * rows
  return withKernelMemory(
    data.length * 6 +
      known.length +
      BINS * channels * 4 +
      nodes * (channels + 1) * 4 +
      chords.byteLength +
      4096,
    (scope) => {
      const codes = scope.reserve(data.length * 2)
      kernels().medianCodes(scope.pointerTo(data), data.length, codes)
      const out = scope.reserve(nodes * channels * 4)
      const counts = scope.reserve(nodes * 4)
      kernels().medianNodes(
        codes,
        scope.pointerTo(known),
        width,
        height,
        channels,
        scope.pointerTo(chords),
        radius,
        rect.col,
        rect.row,
        cols,
        rows,
        step,
        scope.reserve(BINS * channels * 4),
        out,
        counts,
      )
      const { buffer } = kernels().memory
      return {
        col: rect.col,
        row: rect.row,
        cols,
        rows,
        step,
        values: new Float32Array(buffer, out, nodes * channels).slice(),
        counts: new Int32Array(buffer, counts, nodes).slice(),
      }
    },
  )
}
