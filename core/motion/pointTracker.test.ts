import { translationBy } from '../geometry/transform'
import { renderScene } from '../../tests/fixtures/movingWall'
import { PointTracker } from './pointTracker'
import { DEFAULT_TRACK_SETTINGS } from './settings'
import { openWindow } from './window'

const PICTURE = { width: 240, height: 180 }
const rect = { col: 100, row: 60, width: 64, height: 64 }
const window = openWindow(
  renderScene(rect, { frameFromWall: translationBy(0, 0), seed: 1 }),
  rect,
  PICTURE,
  DEFAULT_TRACK_SETTINGS,
  3,
)

test.each([
  [130, 90, true],
  [100, 60, true],
  [90, 90, false],
  [130, 200, false],
  [20, 20, false],
])('a point at %i, %i begins in a window that holds it: %p', (x, y, begins) => {
  expect(new PointTracker(x, y, DEFAULT_TRACK_SETTINGS).begin([window])).toBe(begins)
})

test('without a window nothing begins', () => {
  expect(new PointTracker(130, 90, DEFAULT_TRACK_SETTINGS).begin([])).toBe(false)
})
