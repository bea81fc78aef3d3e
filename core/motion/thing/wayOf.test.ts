import { wayOf } from './wayOf'
import { catchesOf, Likeness, runsOf } from './catches'
import { createPlane } from '../../image/raster'

const at = (dx: number, share: number) => ({ dx, dy: 0, share })

test('a way keeps its speed rather than jump to what catches a little more', () => {
  const frames = [0, 1, 2, 3, 4].map((i) => [at(6 * i, 0.8), at(-40, i === 2 ? 0.85 : 0.1)])
  expect(wayOf(frames)).toEqual([0, 0, 0, 0, 0])
})

test('it jumps where all that follows is caught there alone', () => {
  const frames = [0, 1, 2, 3, 4, 5].map((i) => [at(0, i < 3 ? 0.9 : 0.1), at(30, i < 3 ? 0.1 : 0.9)])
  expect(wayOf(frames)).toEqual([0, 0, 0, 1, 1, 1])
})

test('none and one frame have nothing to choose', () => {
  expect(wayOf([])).toEqual([])
  expect(wayOf([[at(3, 1), at(4, 0.2)]])).toEqual([0])
})

test('runs cover the cells whose middle lies in a polygon', () => {
  const { runs } = runsOf([2, 2, 10, 2, 10, 6, 2, 6], 2)
  expect([...runs]).toEqual([1, 1, 5, 2, 1, 5])
  // Twice as large about its middle.
  expect([...runsOf([2, 2, 10, 2, 10, 6, 2, 6], 2, 1).runs]).toEqual([0, -1, 7, 1, -1, 7, 2, -1, 7, 3, -1, 7])
})

test('a likeness is caught where it was moved to, also partly beyond the part', () => {
  const strange = (col: number) => {
    const plane = createPlane(20, 8)
    for (let row = 2; row < 6; row++)
      for (let c = col; c < Math.min(20, col + 4); c++) plane.data[row * 20 + c] = 1
    return plane
  }
  const part = { col: 0, row: 0, width: 20, height: 8 }
  const like = new Likeness(strange(3), part, runsOf([2, 1, 9, 1, 9, 7, 2, 7], 1), [5, 4])
  expect(like.isTelling).toBe(true)
  expect(like.shareAt(strange(3), part, 5, 4)).toBeCloseTo(1, 6)
  const [best] = catchesOf((dx, dy) => like.shareAt(strange(10), part, 5 + dx, 4 + dy), 8)
  expect(best).toMatchObject({ dx: 7, dy: 0 })
  expect(like.shareAt(strange(18), part, 20, 4)).toBeCloseTo(0.5, 1)
  const nothing = new Likeness(createPlane(20, 8), part, runsOf([2, 1, 9, 1, 9, 7, 2, 7], 1), [5, 4])
  expect([nothing.isTelling, nothing.shareAt(strange(3), part, 5, 4)]).toEqual([false, 0])
})
