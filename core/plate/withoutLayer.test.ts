import { cellsFromLabels, type LayerMap } from '../scene/layerMap'
import type { GatherFrame } from './places'
import { frontLayer, withoutLayer } from './withoutLayer'

/** A wall, layer 0, with a pillar, layer 1, in cells 4 to 6 of 12. */
const [COLS, ROWS, CELL] = [12, 8, 4]
const labels = Uint8Array.from({ length: COLS * ROWS }, (_, at) => (at % COLS >= 4 && at % COLS <= 6 ? 1 : 0))
const map = (hiddenBy: readonly (readonly number[])[]): LayerMap => ({
  cellPx: CELL,
  firstCol: 0,
  firstRow: 0,
  cols: COLS,
  rows: ROWS,
  cells: cellsFromLabels(labels, COLS, ROWS, CELL),
  hiddenBy,
})
const rect = { col: 0, row: 0, width: COLS * CELL, height: ROWS * CELL }
const pixelsAt = (col: number) => Int32Array.from({ length: 10 }, (_, i) => (i + 5) * rect.width + col)

test('what most of a place shows is in front where something lies behind it', () => {
  expect(frontLayer(map([[1], []]), pixelsAt(20), rect)).toBe(1)
  expect(frontLayer(map([[1], []]), pixelsAt(4), rect)).toBeNull()
  expect(frontLayer(map([[], []]), pixelsAt(20), rect)).toBeNull()
  expect(frontLayer(null, pixelsAt(20), rect)).toBeNull()
})

test('a frame without it is masked where it is seen, and close by; what was masked stays so', () => {
  const known = new Uint8Array(rect.width * rect.height)
  known[0] = 1
  const frame = { frame: 3, rect, masked: known, layerMap: map([[1], []]) } as unknown as GatherFrame
  const masked = withoutLayer(frame, 1).masked!
  const at = (col: number) => masked[16 * rect.width + col]
  expect([at(16), at(20), at(27), at(12)]).toEqual([1, 1, 1, 1])
  expect([at(2), at(44)]).toEqual([0, 0])
  expect(masked[0]).toBe(1)
  expect(known[20 + 16 * rect.width]).toBe(0)
})
