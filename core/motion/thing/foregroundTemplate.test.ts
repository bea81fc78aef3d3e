import { createPlane } from '../../image/raster'
import { candidatesOf } from './candidates'
import { ForegroundTemplate } from './foregroundTemplate'
import { maskOfRuns, runsOf } from './outlineRuns'

test('runs cover the cells whose middle lies in a polygon', () => {
  const runs = runsOf([2, 2, 10, 2, 10, 6, 2, 6], 2)
  expect([...runs]).toEqual([1, 1, 5, 2, 1, 5])
  expect([...maskOfRuns(runs, { width: 4, height: 3 }, -2)]).toEqual([0, 0, 0, 0, 1, 1, 1, 0, 1, 1, 1, 0])
})

test('a template is found where it was moved to, also partly beyond the part', () => {
  const foreground = (col: number) => {
    const plane = createPlane(20, 8)
    for (let row = 2; row < 6; row++)
      for (let c = col; c < Math.min(20, col + 4); c++) plane.data[row * 20 + c] = 1
    return plane
  }
  const part = { col: 0, row: 0, width: 20, height: 8 }
  const like = new ForegroundTemplate(foreground(3), part, runsOf([2, 1, 9, 1, 9, 7, 2, 7], 1), [5, 4])
  expect(like.isDistinct).toBe(true)
  expect(like.scoreAt(foreground(3), part, 5, 4)).toBeCloseTo(1, 6)
  const [best] = candidatesOf((dx, dy) => like.scoreAt(foreground(10), part, 5 + dx, 4 + dy), 8)
  expect(best).toMatchObject({ dx: 7, dy: 0 })
  expect(like.scoreAt(foreground(18), part, 20, 4)).toBeCloseTo(0.5, 1)
  const nothing = new ForegroundTemplate(
    createPlane(20, 8),
    part,
    runsOf([2, 1, 9, 1, 9, 7, 2, 7], 1),
    [5, 4],
  )
  expect([nothing.isDistinct, nothing.scoreAt(foreground(3), part, 5, 4)]).toEqual([false, 0])
})
