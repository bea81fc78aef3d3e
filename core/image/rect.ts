/** A rectangle of whole pixels. `col` and `row` may be negative where it reaches out of the picture. */
export interface Rect {
  readonly col: number
  readonly row: number
  readonly width: number
  readonly height: number
}

export interface Size {
  readonly width: number
  readonly height: number
}

/** The smallest whole-pixel rectangle that holds the continuous box. */
export function rectAround(left: number, top: number, right: number, bottom: number): Rect {
  const col = Math.floor(left)
  const row = Math.floor(top)
  return {
    col,
    row,
    width: Math.max(0, Math.ceil(right) - col),
    height: Math.max(0, Math.ceil(bottom) - row),
  }
}

export function growRect(rect: Rect, byPx: number): Rect {
  return {
    col: rect.col - byPx,
    row: rect.row - byPx,
    width: rect.width + 2 * byPx,
    height: rect.height + 2 * byPx,
  }
}

/** What two rectangles share, or null when that is nothing. */
export function intersectRects(a: Rect, b: Rect): Rect | null {
  const col = Math.max(a.col, b.col)
  const row = Math.max(a.row, b.row)
  const width = Math.min(a.col + a.width, b.col + b.width) - col
  const height = Math.min(a.row + a.height, b.row + b.height) - row
  return width > 0 && height > 0 ? { col, row, width, height } : null
}

/** The smallest rectangle that holds both. */
export function uniteRects(a: Rect, b: Rect): Rect {
  const col = Math.min(a.col, b.col)
  const row = Math.min(a.row, b.row)
  return {
    col,
    row,
    width: Math.max(a.col + a.width, b.col + b.width) - col,
    height: Math.max(a.row + a.height, b.row + b.height) - row,
  }
}

export const wholePicture = ({ width, height }: Size): Rect => ({ col: 0, row: 0, width, height })
