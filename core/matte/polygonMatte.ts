/** Where the pixels near a closed polygon lie, seen from its edge. */
import type { Rect } from '../image/rect'
import { withKernelMemory } from '../kernels/memory'
import type { EdgeField } from './edge'

/**
 * Lists the pixels inside a polygon and within `marginPx` of it, with their distance from its edge.
 *
 * Inside is told by the even-odd rule at the pixel centre. Pixels deeper inside than `marginPx`
 * have −∞: nothing asks how deep.
 *
 * @param polygon  x, y pairs in px of the full picture; the last joins the first.
 * Cost: pixels of the rectangle for the inside, length × margin for the edge.
 */
export function measurePolygonField(polygon: readonly number[], rect: Rect, marginPx: number): EdgeField {
  const { width, height } = rect
  const size = width * height
  return withKernelMemory(size * 4 + 64, (scope) => {
    const nearest = scope.take(size).fill(Infinity) // squared
    const corners = polygon.length
    for (let i = 0, j = corners - 2; i < corners; j = i, i += 2) {
      markSide(
        polygon[j]! - rect.col,
        polygon[j + 1]! - rect.row,
        polygon[i]! - rect.col,
        polygon[i + 1]! - rect.row,
        rect,
        marginPx,
        nearest,
      )
    }
    const isInside = fillInside(polygon, rect)
    let count = 0
    for (let pixel = 0; pixel < size; pixel++)
      if (isInside[pixel] === 1 || nearest[pixel] !== Infinity) count++
    const pixels = new Int32Array(count)
    const edges = new Float32Array(count)
    for (let pixel = 0, at = 0; pixel < size; pixel++) {
      const isKnown = nearest[pixel] !== Infinity
      if (isInside[pixel] === 0 && !isKnown) continue
      const distance = isKnown ? Math.sqrt(nearest[pixel]!) : Infinity
      pixels[at] = pixel
      edges[at++] = isInside[pixel] === 1 ? -distance : distance
    }
    return { count, pixels, edges }
  })
}

function markSide(
  ax: number,
  ay: number,
  bx: number,
  by: number,
  rect: Rect,
  marginPx: number,
  nearest: Float32Array,
): void {
  const [dx, dy] = [bx - ax, by - ay]
  const squared = dx * dx + dy * dy
  const reach = marginPx * marginPx
  const beginRow = Math.max(0, Math.floor(Math.min(ay, by) - marginPx))
  const endRow = Math.min(rect.height, Math.ceil(Math.max(ay, by) + marginPx))
  const beginCol = Math.max(0, Math.floor(Math.min(ax, bx) - marginPx))
  const endCol = Math.min(rect.width, Math.ceil(Math.max(ax, bx) + marginPx))
  for (let row = beginRow; row < endRow; row++) {
    const offY = row + 0.5 - ay
    for (let col = beginCol; col < endCol; col++) {
      const offX = col + 0.5 - ax
      const along = squared > 0 ? Math.min(Math.max((offX * dx + offY * dy) / squared, 0), 1) : 0
      const [ex, ey] = [offX - along * dx, offY - along * dy]
      const distance = ex * ex + ey * ey
      const pixel = row * rect.width + col
      if (distance <= reach && distance < nearest[pixel]!) nearest[pixel] = distance
    }
  }
}

/** Even-odd fill at pixel centres, row by row. */
function fillInside(polygon: readonly number[], rect: Rect): Uint8Array {
  const { width, height } = rect
  const isInside = new Uint8Array(width * height)
  const corners = polygon.length
  for (let row = 0; row < height; row++) {
    const y = rect.row + row + 0.5
    const crossings: number[] = []
    for (let i = 0, j = corners - 2; i < corners; j = i, i += 2) {
      const [yi, yj] = [polygon[i + 1]!, polygon[j + 1]!]
      if (yi > y !== yj > y)
        crossings.push(((polygon[j]! - polygon[i]!) * (y - yi)) / (yj - yi) + polygon[i]! - rect.col)
    }
    crossings.sort((a, b) => a - b)
    for (let k = 0; k + 1 < crossings.length; k += 2) {
      const begin = Math.max(0, Math.ceil(crossings[k]! - 0.5))
      const end = Math.min(width, Math.ceil(crossings[k + 1]! - 0.5))
      if (end > begin) isInside.fill(1, row * width + begin, row * width + end)
    }
  }
  return isInside
}
