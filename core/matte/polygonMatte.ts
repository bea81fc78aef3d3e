/** Where the pixels near a closed polygon lie, seen from its edge. */
import type { Rect } from '../image/rect'
import { kernels } from '../kernels/module'
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
  const { width, height, col, row } = rect
  const size = width * height
  const corners = polygon.length / 2
  return withKernelMemory(size * 14 + (width + 1) * height + corners * 16 + 4096, (scope) => {
    const { nearestToLine, markPolygon, memory } = kernels()
    const places = Float64Array.from(polygon, (at, i) => at - (i % 2 === 0 ? col : row))
    const [distances, inside] = [scope.reserve(4 * size), scope.reserve(size)]
    new Float32Array(memory.buffer, distances, size).fill(Infinity)
    new Uint8Array(memory.buffer, inside, size).fill(0)
    for (let i = 0, j = places.length - 2; i < places.length; j = i, i += 2) {
      const [ax, ay, bx, by] = [places[j]!, places[j + 1]!, places[i]!, places[i + 1]!]
      nearestToLine(distances, width, height, ax, ay, bx, by, marginPx)
    }
    const toggles = scope.reserve((width + 1) * height)
    markPolygon(inside, width, height, scope.pointerTo(places), corners, toggles, 1)
    const count = kernels().countNear(distances, inside, size)
    const [pixels, edges] = [scope.reserve(4 * count), scope.reserve(4 * count)]
    kernels().listNear(distances, inside, size, pixels, edges)
    return {
      count,
      pixels: new Int32Array(memory.buffer, pixels, count).slice(),
      edges: new Float32Array(memory.buffer, edges, count).slice(),
    }
  })
}
