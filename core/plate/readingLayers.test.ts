import { IDENTITY, translationBy } from '../geometry/transform'
import type { LayerMap } from '../scene/layerMap'
import type { Readings } from './reading'
import { maskUncertain, maskOtherLayers } from './readingLayers'

/** Cells of 4 px: wall (0) up to x = 80, a column (1) in front up to 160, then wall again. */
const map: LayerMap = {
  cellPx: 4,
  firstCol: 0,
  firstRow: 0,
  cols: 80,
  rows: 10,
  labels: Array.from({ length: 800 }, (_, cell) => (cell % 80 >= 20 && cell % 80 < 40 ? 1 : 0)),
  hiddenBy: [[1], []],
}
const places = Float32Array.from([20, 76, 84, 90, 120, 150, 170, 250].flatMap((x) => [x, 20]))
const readings = (): Readings => ({ values: new Float32Array(24), kept: new Float32Array(8).fill(1) })
const MOTIONS = [IDENTITY, translationBy(10, 0)]

test('of the wall, what shows the column is shut; near its edge it is only doubted, on either side of it', () => {
  const wall = readings()
  const doubts = maskOtherLayers(wall, places, MOTIONS, 0, map)
  expect([...wall.kept]).toEqual([1, 1, 1, 1, -1, 1, 1, 1])
  expect([...doubts]).toEqual([0, 1, 1, 1, 0, 1, 0, 0])
})

test('of the column, wall where it should be speaks against it; nothing in front of it makes its own doubtful', () => {
  const column = readings()
  const doubts = maskOtherLayers(column, places, MOTIONS, 1, map)
  // Places lie 10 px further right there.
  expect([...column.kept]).toEqual([-2, 1, 1, 1, 1, 1, -2, -2])
  expect([...doubts]).toEqual([0, 0, 0, 0, 0, 1, 0, 0])
})

test('where both layers move alike, and without a map, nothing is shut', () => {
  const one = readings()
  maskOtherLayers(one, places, [IDENTITY, translationBy(1, 0)], 0, map)
  expect(one.kept.every((kept) => kept === 1)).toBe(true)
  const other = readings()
  expect(maskOtherLayers(other, places, MOTIONS, 0, null).includes(1)).toBe(false)
  expect(other.kept.every((kept) => kept === 1)).toBe(true)
})

test('doubtful readings are shut where three frames show the place beyond doubt, and stay where fewer do', () => {
  const all = Array.from({ length: 4 }, () => readings())
  const doubts = all.map((_, frame) =>
    Uint8Array.from({ length: 8 }, (_unused, place) => (frame === 3 || (frame === 2 && place > 3) ? 1 : 0)),
  )
  maskUncertain(all, doubts)
  expect([...all[3]!.kept]).toEqual([-1, -1, -1, -1, 1, 1, 1, 1])
  expect(all[2]!.kept.every((kept) => kept === 1)).toBe(true)
})
