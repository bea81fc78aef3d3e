import { aheadOrder } from './aheadOrder'

const RANGE = { firstFrame: 1001, lastFrame: 1006 }

test('played, the next ones come first, round the end to the start; resting, two on for each one back', () => {
  expect(aheadOrder(1005, RANGE, true, 4)).toEqual([1005, 1006, 1001, 1002])
  expect(aheadOrder(1003, RANGE, false, 6)).toEqual([1003, 1004, 1005, 1002, 1006, 1001])
})

test('a playhead outside of what is played comes first, then the range', () => {
  expect(aheadOrder(1020, RANGE, true, 4)).toEqual([1020, 1001, 1002, 1003])
  expect(aheadOrder(1020, RANGE, false, 1)).toEqual([1020])
  expect(aheadOrder(1020, RANGE, true, 0)).toEqual([])
})
