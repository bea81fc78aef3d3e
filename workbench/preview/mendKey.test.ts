import { sampleMend, samplePath } from '../../tests/fixtures/sampleMend'
import { mendedFrameKey } from './mendKey'

const NO_TRACKS = new Map<string, never>()
const plate = { firstFrame: 1001, lastFrame: 1048 }
const mend = sampleMend()
const key = (over: Parameters<typeof sampleMend>[0], frame = 1010) =>
  mendedFrameKey([sampleMend(over)], NO_TRACKS, frame, plate)
const none = mendedFrameKey([], NO_TRACKS, 1010, plate)

test('the key changes with what shows on the frame and with nothing else', () => {
  expect(key({ name: 'Other' })).toBe(key({}))
  expect(key({ isOn: false })).toBe(none)
  expect(key({ span: { firstFrame: 1001, lastFrame: 1005 } })).toBe(none)
  expect(key({ finish: { ...mend.finish, featherOutPx: 2 } })).not.toBe(key({}))
  expect(key({ fill: { ...mend.fill, params: { ...mend.fill.params, reachPx: 9 } } })).not.toBe(key({}))
})

test('a key elsewhere in time does not touch frames where the area is the same', () => {
  const { points } = samplePath().keys[0]!
  const moved = points.map((point) => ({ ...point, x: point.x + 5 }))
  const areas = [
    samplePath({
      interpolation: 'linear',
      keys: [1001, 1020, 1030].map((frame) => ({ frame, points: frame === 1030 ? moved : points })),
    }),
  ]
  expect(key({ areas }, 1010)).toBe(key({}, 1010))
  expect(key({ areas }, 1025)).not.toBe(key({}, 1025))
})
