import { measurePolygonField } from '../matte/polygonMatte'
import { cropSamples } from '../image/samples'
import { FREE, MENDED, NEVER } from '../fill/method'
import {
  coverShapes,
  HARD,
  holdoutDistancesOf,
  isSameThing,
  subtractHoldout,
  tabooOf,
  type TabooShape,
} from './coverage'
import type { ReadShape } from './readShape'

const WHOLE = { col: 0, row: 0, width: 120, height: 90 }
const square = (x: number, y: number, half: number): ReadShape => ({
  shape: 'closed',
  polygon: [x - half, y - half, x + half, y - half, x + half, y + half, x - half, y + half],
})
const soft = { featherOutPx: 3, featherInPx: 0, growPx: 1 }

describe('what fills must keep away from', () => {
  const shapes: TabooShape[] = [
    { shape: square(40, 40, 10), edge: soft, level: MENDED },
    { shape: square(52, 40, 6), edge: HARD, level: NEVER },
  ]
  const at = (taboo: Uint8Array | null, x: number, y: number, rect = WHOLE) =>
    taboo![(y - rect.row) * rect.width + x - rect.col]

  test('the strictest holds where two lie over each other; feathers count', () => {
    const taboo = tabooOf(shapes, WHOLE)
    expect([at(taboo, 40, 40), at(taboo, 48, 40), at(taboo, 40, 52), at(taboo, 40, 55), at(taboo, 57, 40)]).toEqual([MENDED, NEVER, MENDED, FREE, NEVER]) // prettier-ignore
  })

  test('cut to any rectangle it is the same', () => {
    const whole = tabooOf(shapes, WHOLE)!
    for (const rect of [
      { col: 30, row: 20, width: 50, height: 40 },
      { col: 44, row: 38, width: 7, height: 52 },
    ]) {
      const size = { width: WHOLE.width, height: WHOLE.height, channels: 1 }
      expect(tabooOf(shapes, rect)).toEqual(cropSamples({ ...size, data: whole }, rect).data)
    }
  })

  test('where none of them reaches there is nothing', () => {
    expect(tabooOf(shapes, { col: 80, row: 60, width: 20, height: 20 })).toBeNull()
    expect(tabooOf([], WHOLE)).toBeNull()
  })
})

describe('holdouts', () => {
  const area = square(50, 45, 20)
  const { field, coverage } = coverShapes([area], WHOLE, 6, HARD)
  const entryAt = (x: number, y: number) => field.pixels.indexOf(y * WHOLE.width + x)

  test('are taken out of the coverage as drawn', () => {
    const left = coverage.slice()
    subtractHoldout(left, field, square(65, 45, 10), WHOLE)
    expect([left[entryAt(40, 45)], left[entryAt(60, 45)], left[entryAt(53, 45)]]).toEqual([1, 0, 1])
    const all = coverage.slice()
    subtractHoldout(all, field, square(110, 80, 4), WHOLE)
    expect(all).toEqual(coverage)
  })

  test('their distance is known as far as it is asked for, below 0 inside', () => {
    const holdoutCover = holdoutDistancesOf([square(80, 45, 4), square(65, 45, 5)], field, WHOLE, 12)!
    // The right one lies outside the area; the left one from x 60 to 70.
    expect(holdoutCover[entryAt(65, 45)]).toBeLessThan(0)
    expect(holdoutCover[entryAt(55, 45)]).toBeCloseTo(4.5, 5)
    expect(holdoutCover[entryAt(40, 45)]).toBe(Infinity)
    expect(holdoutDistancesOf([], field, WHOLE, 12)).toBeNull()
    expect(holdoutDistancesOf([square(65, 45, 5)], field, WHOLE, 0)).toBeNull()
  })

  test('distances agree with those of the outline itself', () => {
    const holdoutCover = holdoutDistancesOf([square(65, 45, 5)], field, WHOLE, 40)!
    const direct = measurePolygonField([60, 40, 70, 40, 70, 50, 60, 50], WHOLE, 40)
    for (let k = 0; k < direct.count; k++) {
      const entry = field.pixels.indexOf(direct.pixels[k]!)
      if (entry >= 0) expect(holdoutCover[entry]).toBe(direct.edges[k])
    }
  })
})

test('two mends of the same thing are told by how much of both lies in common', () => {
  expect(isSameThing(square(40, 40, 10), square(41, 40, 10))).toBe(true)
  expect(isSameThing(square(40, 40, 10), square(52, 40, 10))).toBe(false)
  expect(isSameThing(square(40, 40, 10), square(90, 40, 10))).toBe(false)
})
