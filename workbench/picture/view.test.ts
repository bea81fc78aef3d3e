import {
  centredView,
  fitView,
  nextScaleDown,
  nextScaleUp,
  panBy,
  SCALE,
  toPicture,
  toScreen,
  zoomAbout,
} from './view'

const picture = { width: 1280, height: 720 }

test('fit shows the whole picture, centred, never enlarged', () => {
  expect(fitView(picture, { width: 664, height: 500 })).toEqual({
    scale: 0.5,
    left: 12,
    top: 70,
    isFit: true,
  })
  expect(fitView({ width: 100, height: 50 }, { width: 1000, height: 500 }).scale).toBe(1)
  expect(centredView(picture, { width: 1920, height: 1000 }, 1)).toEqual({ scale: 1, left: 320, top: 140 })
})

test('a view is fitted until somebody zooms or moves it', () => {
  const view = fitView(picture, { width: 664, height: 500 })
  expect([zoomAbout(view, 2, 10, 10).isFit, panBy(view, 5, 0).isFit]).toEqual([undefined, undefined])
})

test('zooming keeps what is under the pointer where it is', () => {
  const view = fitView(picture, { width: 664, height: 500 })
  const before = toPicture(view, 300, 200)
  const after = toPicture(zoomAbout(view, 8, 300, 200), 300, 200)
  expect(after.x).toBeCloseTo(before.x, 0)
  expect(after.y).toBeCloseTo(before.y, 0)
  expect(zoomAbout(view, 999, 0, 0).scale).toBe(SCALE.max)
  expect(zoomAbout(view, 0, 0, 0).scale).toBe(SCALE.min)
})

test('screen and picture positions are each other’s inverse', () => {
  const view = { scale: 3, left: -40, top: 17 }
  const { xScreen, yScreen } = toScreen(view, 12.5, 99.25)
  expect(toPicture(view, xScreen, yScreen)).toEqual({ x: 12.5, y: 99.25 })
})

test('the fixed zooms go up and down and stop at the ends', () => {
  expect([nextScaleUp(0.61), nextScaleDown(0.61), nextScaleUp(1), nextScaleDown(1)]).toEqual([
    0.75, 0.5, 1.5, 0.75,
  ])
  expect([nextScaleUp(32), nextScaleDown(0.05)]).toEqual([SCALE.max, SCALE.min])
})
