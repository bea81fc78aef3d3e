import { sampleMend } from '../../core/mend/sampleMend'
import { mendedFrameKey } from './mendKey'

const mend = sampleMend()
const key = (over: Parameters<typeof sampleMend>[0], frame = 1010) => mendedFrameKey([sampleMend(over)], frame)

test('names and what is off do not count; place, fill and finish do', () => {
  expect(key({ name: 'Other' })).toBe(key({}))
  expect(key({ isOn: false })).toBe(mendedFrameKey([], 1010))
  expect(key({ span: { firstFrame: 1001, lastFrame: 1005 } })).toBe(mendedFrameKey([], 1010))
  expect(key({ finish: { ...mend.finish, featherPx: 2 } })).not.toBe(key({}))
  expect(key({ fill: { ...mend.fill, params: { ...mend.fill.params, reachPx: 9 } } })).not.toBe(key({}))
})

test('a key on a later frame leaves frames at rest before it as they were', () => {
  const points = mend.area.keys[0]!.points
  const moved = points.map((point) => ({ ...point, x: point.x + 5 }))
  const area = {
    ...mend.area,
    travel: 'linear' as const,
    keys: [
      { frame: 1001, points },
      { frame: 1020, points },
      { frame: 1030, points: moved },
    ],
  }
  expect(key({ area }, 1010)).toBe(key({}, 1010))
  expect(key({ area }, 1025)).not.toBe(key({}, 1025))
})
