import { createPathCurve, type PathCurve } from '../../geometry/pathCurve'
import { createRaster } from '../../image/raster'
import type { Rect, Size } from '../../image/rect'
import { withKernelMemory } from '../../kernels/memory'
import { kernels } from '../../kernels/module'
import { columnsOf, readStrips, SMOOTH_PX, stripBytes, stripMemory, type DirectionAt } from './strips'

const square: DirectionAt = (tangentX, tangentY) => ({ x: -tangentY, y: tangentX, crossing: 1 })
const curve = createPathCurve([
  { x: 20, y: 5, widthPx: 6 },
  { x: 20, y: 25, widthPx: 6 },
])
const whole: Rect = { col: 0, row: 0, width: 40, height: 30 }

/** A picture that holds, at every place, the place itself. */
function ramp() {
  const raster = createRaster(40, 30, 2)
  for (let i = 0; i < raster.data.length; i += 2) {
    const pixel = i / 2
    raster.data[i] = (pixel % 40) + 0.5
    raster.data[i + 1] = Math.floor(pixel / 40) + 0.5
  }
  return raster
}

interface SideRead {
  readonly isSeen: readonly number[]
  at(column: number, row: number, level?: number): [x: number, y: number]
}

function read(
  along: PathCurve,
  {
    rect = whole,
    pictureSize = rect,
    rows = 5,
    taboo = null,
  }: { rect?: Rect; pictureSize?: Size; rows?: number; taboo?: Uint8Array | null } = {},
): { readonly left: SideRead; readonly right: SideRead } {
  const source = {
    picture: ramp(),
    taboo,
    rect,
    pictureSize,
    curve: along,
    rimPx: 1,
    rows,
    directionAt: square,
  }
  return withKernelMemory(stripMemory(source), (scope) => {
    const { columns, left, right } = readStrips(source, scope)
    const [leftRead, rightRead] = [left, right].map(({ strips, isSeen }): SideRead => {
      const bytes = SMOOTH_PX.length * stripBytes(columns, rows)
      const places = new Float32Array(kernels().memory.buffer, strips, bytes / 4).slice()
      const at: SideRead['at'] = (column, row, level = 0) => {
        const from = 4 * ((level * rows + row) * columns + column)
        return [places[from]!, places[from + 1]!]
      }
      return { isSeen: [...isSeen], at }
    })
    return { left: leftRead!, right: rightRead! }
  })
}

test('strips begin half a pixel outside the rim and run along the path', () => {
  const { left, right } = read(curve)
  expect(columnsOf(curve)).toBe(21)
  // The path runs down, so its right is at smaller x.
  for (const [side, sign] of [
    [right, -1],
    [left, 1],
  ] as const) {
    for (const [column, row] of [
      [0, 0],
      [7, 2],
      [20, 4],
    ] as const) {
      const [x, y] = side.at(column, row)
      expect(x).toBeCloseTo(20 + sign * (3 + 1 + 0.5 + row), 4)
      expect(y).toBeCloseTo(5 + column, 4)
    }
    expect(side.isSeen.every((seen) => seen === 1)).toBe(true)
  }
})

test('smoothed copies are the mean along the path and never look further outwards', () => {
  const { left } = read(curve)
  SMOOTH_PX.forEach((_, level) => {
    const [x, y] = left.at(10, 1, level)
    expect(x).toBeCloseTo(25.5, 3)
    expect(y).toBeCloseTo(15, 1)
  })
})

test('a rim outside the picture is not seen; a crop is told where it lies', () => {
  const pathAt = (x: number, y: number) =>
    createPathCurve([
      { x, y, widthPx: 6 },
      { x, y: y + 20, widthPx: 6 },
    ])
  const { left, right } = read(pathAt(2, 5), { rows: 3 })
  expect(right.isSeen.every((seen) => seen === 0)).toBe(true)
  expect(left.isSeen.every((seen) => seen === 1)).toBe(true)
  const far = read(pathAt(120, 55), {
    rect: { ...whole, col: 100, row: 50 },
    pictureSize: { width: 400, height: 300 },
    rows: 3,
  })
  expect(far.left.at(4, 0)[0]).toBeCloseTo(24.5, 4)
})

test('what others cover is not read: it is bridged along the path, and its rim is not seen', () => {
  const taboo = new Uint8Array(40 * 30)
  for (let y = 12; y < 18; y++) for (let x = 22; x < 40; x++) taboo[y * 40 + x] = 1
  const { left, right } = read(curve, { taboo })
  expect(left.isSeen.slice(8, 12)).toEqual([0, 0, 0, 0])
  expect([left.isSeen[0], left.isSeen[20]]).toEqual([1, 1])
  expect(right.isSeen.every((seen) => seen === 1)).toBe(true)
  // A ramp that is bridged in a straight line is the ramp again.
  for (let column = 0; column <= 20; column++) expect(left.at(column, 0)[1]).toBeCloseTo(5 + column, 0)
})
