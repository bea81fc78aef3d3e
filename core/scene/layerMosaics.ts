/**
 * One picture of each layer from what all frames say of it: a place of a layer is the same on every frame. What a single
 * frame tells wrong, mostly beside edges, is outvoted; and what something covers on one frame is known from the others.
 * Source: J. Y. A. Wang and E. H. Adelson, "Representing moving images with layers", IEEE Trans. Image Processing 3(5), 1994.
 */
import { apply, invert, type Matrix3 } from '../geometry/transform'
import { NO_LAYER } from './layerMap'

export interface CellGrid {
  readonly cellPx: number
  readonly cols: number
  readonly rows: number
}

/** What frames say of the places of a layer, on a grid of cells in the layer's own frame of reference. */
interface Mosaic extends CellGrid {
  readonly firstCol: number
  readonly firstRow: number
  readonly is: Float32Array
  readonly isNot: Float32Array
}

/** A layer's places beyond so many pictures to each side are not kept: a floor that is seen edge-on has no end. */
const MAX_PICTURES = 2
/** A place belongs to a layer when this share of the frames that can tell say so; what stands before others looks wider than it is. */
const BELONGS_FROM = 0.5
const STANDS_BEFORE_FROM = 0.8

/**
 * @param frames  For each frame the label of each cell. @param motions  For each layer and frame, where places of its reference lie.
 * @param hiddenBy  For each layer, those that pass in front of it.
 * @returns The labels again, as all frames together tell them; covered cells have the label of what lies behind, where that is known.
 */
export function agreeLabels(
  grid: CellGrid,
  frames: readonly Uint8Array[],
  motions: readonly (readonly Matrix3[])[],
  hiddenBy: readonly (readonly number[])[],
): Uint8Array[] {
  const back = motions.map((ofLayer) => ofLayer.map((motion) => invert(motion)))
  const mosaics = back.map((ofLayer) => emptyMosaic(grid, ofLayer))
  frames.forEach((labels, frame) => vote(grid, labels, frame, back, mosaics, hiddenBy))
  return frames.map((labels, frame) => relabelled(grid, labels, frame, back, mosaics, hiddenBy))
}

function emptyMosaic({ cellPx, cols, rows }: CellGrid, back: readonly (Matrix3 | null)[]): Mosaic {
  const [width, height] = [cols * cellPx, rows * cellPx]
  let [left, right, top, bottom] = [0, width, 0, height]
  for (const motion of back) {
    if (!motion) continue
    for (const [x, y] of [
      [0, 0],
      [width, 0],
      [0, height],
      [width, height],
    ] as const) {
      const at = apply(motion, x, y)
      left = Math.max(-MAX_PICTURES * width, Math.min(left, at.x))
      right = Math.min((1 + MAX_PICTURES) * width, Math.max(right, at.x))
      top = Math.max(-MAX_PICTURES * height, Math.min(top, at.y))
      bottom = Math.min((1 + MAX_PICTURES) * height, Math.max(bottom, at.y))
    }
  }
  const [firstCol, firstRow] = [Math.floor(left / cellPx), Math.floor(top / cellPx)]
  const own = {
    cellPx,
    firstCol,
    firstRow,
    cols: Math.ceil(right / cellPx) - firstCol,
    rows: Math.ceil(bottom / cellPx) - firstRow,
  }
  return { ...own, is: new Float32Array(own.cols * own.rows), isNot: new Float32Array(own.cols * own.rows) }
}

/** For each cell of a frame the place of its middle in a layer's mosaic; −1 outside of it. */
function placesIn(
  { cellPx, firstCol, firstRow, cols, rows }: Mosaic,
  referenceFromFrame: Matrix3 | null | undefined,
  grid: CellGrid,
): Int32Array {
  const places = new Int32Array(grid.cols * grid.rows).fill(-1)
  if (!referenceFromFrame) return places
  const [a, b, c, d, e, f, g, h, k] = referenceFromFrame
  for (let row = 0, cell = 0; row < grid.rows; row++) {
    const y = (row + 0.5) * cellPx
    for (let col = 0; col < grid.cols; col++, cell++) {
      const x = (col + 0.5) * cellPx
      const perCell = 1 / ((g * x + h * y + k) * cellPx)
      const toCol = Math.floor((a * x + b * y + c) * perCell) - firstCol
      const toRow = Math.floor((d * x + e * y + f) * perCell) - firstRow
      if (toCol >= 0 && toRow >= 0 && toCol < cols && toRow < rows) places[cell] = toRow * cols + toCol
    }
  }
  return places
}

function vote(
  grid: CellGrid,
  labels: Uint8Array,
  frame: number,
  back: readonly (readonly (Matrix3 | null)[])[],
  mosaics: readonly Mosaic[],
  hiddenBy: readonly (readonly number[])[],
): void {
  mosaics.forEach((mosaic, layer) => {
    const places = placesIn(mosaic, back[layer]![frame], grid)
    const { is, isNot } = mosaic
    // What passes in front of a layer says nothing of what is behind it.
    const says = mosaics.map((_, seen) => seen === layer || !hiddenBy[layer]!.includes(seen))
    for (let cell = 0; cell < labels.length; cell++) {
      const [seen, place] = [labels[cell]!, places[cell]!]
      if (seen === NO_LAYER || place < 0 || !says[seen]) continue
      if (layer === seen) is[place] = is[place]! + 1
      else isNot[place] = isNot[place]! + 1
    }
  })
}

function relabelled(
  grid: CellGrid,
  labels: Uint8Array,
  frame: number,
  back: readonly (readonly (Matrix3 | null)[])[],
  mosaics: readonly Mosaic[],
  hiddenBy: readonly (readonly number[])[],
): Uint8Array {
  const out = labels.slice()
  const best = new Uint8Array(labels.length).fill(NO_LAYER)
  const shares = new Float32Array(labels.length)
  mosaics.forEach(({ is, isNot }, layer) => {
    const places = placesIn(mosaics[layer]!, back[layer]![frame], grid)
    const standsBefore = hiddenBy.some((ones) => ones.includes(layer))
    const from = standsBefore ? STANDS_BEFORE_FROM : BELONGS_FROM
    const isNearerThan = mosaics.map((_, other) => hiddenBy[other]!.includes(layer))
    const isBehind = mosaics.map((_, other) => hiddenBy[layer]!.includes(other))
    for (let cell = 0; cell < labels.length; cell++) {
      const place = places[cell]!
      if (place < 0) continue
      const share = is[place]! / (is[place]! + isNot[place]! + 1)
      if (share < from) continue
      const now = best[cell]!
      // The nearer of two; of those that do not hide each other, the surer.
      if (now !== NO_LAYER && !isNearerThan[now] && !(share > shares[cell]! && !isBehind[now])) continue
      best[cell] = layer
      shares[cell] = share
    }
  })
  for (let cell = 0; cell < out.length; cell++) if (best[cell] !== NO_LAYER) out[cell] = best[cell]!
  return out
}
