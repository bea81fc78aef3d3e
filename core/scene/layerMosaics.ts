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

/** Where the middle of a frame's cell lies in a layer's mosaic; −1 outside of it. */
function placeIn(
  { cellPx, firstCol, firstRow, cols, rows }: Mosaic,
  referenceFromFrame: Matrix3 | null | undefined,
  cellCol: number,
  cellRow: number,
): number {
  if (!referenceFromFrame) return -1
  const { x, y } = apply(referenceFromFrame, (cellCol + 0.5) * cellPx, (cellRow + 0.5) * cellPx)
  const [col, row] = [Math.floor(x / cellPx) - firstCol, Math.floor(y / cellPx) - firstRow]
  return col < 0 || row < 0 || col >= cols || row >= rows ? -1 : row * cols + col
}

function vote(
  { cols, rows }: CellGrid,
  labels: Uint8Array,
  frame: number,
  back: readonly (readonly (Matrix3 | null)[])[],
  mosaics: readonly Mosaic[],
  hiddenBy: readonly (readonly number[])[],
): void {
  for (let row = 0; row < rows; row++) {
    for (let col = 0; col < cols; col++) {
      const seen = labels[row * cols + col]!
      if (seen === NO_LAYER) continue
      mosaics.forEach((mosaic, layer) => {
        // What passes in front of a layer says nothing of what is behind it.
        if (layer !== seen && hiddenBy[layer]!.includes(seen)) return
        const place = placeIn(mosaic, back[layer]![frame], col, row)
        if (place < 0) return
        if (layer === seen) mosaic.is[place]!++
        else mosaic.isNot[place]!++
      })
    }
  }
}

function relabelled(
  { cols, rows }: CellGrid,
  labels: Uint8Array,
  frame: number,
  back: readonly (readonly (Matrix3 | null)[])[],
  mosaics: readonly Mosaic[],
  hiddenBy: readonly (readonly number[])[],
): Uint8Array {
  const out = new Uint8Array(labels.length).fill(NO_LAYER)
  const from = mosaics.map((_, layer) =>
    hiddenBy.some((ones) => ones.includes(layer)) ? STANDS_BEFORE_FROM : BELONGS_FROM,
  )
  for (let row = 0; row < rows; row++) {
    for (let col = 0; col < cols; col++) {
      let [best, max] = [NO_LAYER, 0]
      mosaics.forEach((mosaic, layer) => {
        const place = placeIn(mosaic, back[layer]![frame], col, row)
        if (place < 0) return
        const [is, isNot] = [mosaic.is[place]!, mosaic.isNot[place]!]
        const share = is / (is + isNot + 1)
        if (share < from[layer]!) return
        // The nearer of two; of those that do not hide each other, the surer.
        if (
          best === NO_LAYER ||
          hiddenBy[best]!.includes(layer) ||
          (share > max && !hiddenBy[layer]!.includes(best))
        )
          [best, max] = [layer, share]
      })
      out[row * cols + col] = best === NO_LAYER ? labels[row * cols + col]! : best
    }
  }
  return out
}
