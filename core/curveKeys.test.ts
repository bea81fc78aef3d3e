import {
  curveNumber,
  fewestKeys,
  hasCurveKeyAt,
  isCurveKeys,
  levelAt,
  levelledAt,
  withCurveKeyAt,
  withLevelAt,
  withoutCurveKeyAt,
} from './curveKeys'

const fade = [
  { frame: 1001, level: 0 },
  { frame: 1011, level: 1 },
]

test('between keys a level goes straight; before the first and after the last it stays', () => {
  expect([990, 1001, 1006, 1011, 1020].map((frame) => levelAt(fade, frame))).toEqual([0, 0, 0.5, 1, 1])
  expect(levelledAt(fade, 1006)).toEqual([{ frame: 0, level: 0.5 }])
  expect(levelAt([{ frame: 7, level: 0.3 }], 1)).toBe(0.3)
})

test('a single key is changed where it is; of several one is set on the frame', () => {
  expect(withLevelAt([{ frame: 0, level: 1 }], 1020, 0.4)).toEqual([{ frame: 0, level: 0.4 }])
  expect(withLevelAt(fade, 1006, 0.9)).toEqual([fade[0], { frame: 1006, level: 0.9 }, fade[1]])
  expect(withCurveKeyAt(fade, 1011, 0.5)).toEqual([fade[0], { frame: 1011, level: 0.5 }])
  expect(withoutCurveKeyAt(fade, 1001)).toEqual([fade[1]])
  expect(withoutCurveKeyAt([fade[0]!], 1001)).toEqual([fade[0]])
  expect([hasCurveKeyAt(fade, 1011), hasCurveKeyAt(fade, 1006), hasCurveKeyAt([fade[0]!], 1001)]).toEqual([
    true,
    false,
    false,
  ])
})

test('its schema starts with one key, and refuses keys out of order, out of range or none', () => {
  const schema = curveNumber(0, 2, 1)
  expect(schema.parse(undefined)).toEqual([{ frame: 0, level: 1 }])
  expect(isCurveKeys(schema.parse(undefined))).toBe(true)
  expect(schema.safeParse([fade[1], fade[0]]).success).toBe(false)
  expect(schema.safeParse([{ frame: 1, level: 2.1 }]).success).toBe(false)
  expect(schema.safeParse([]).success).toBe(false)
  expect([isCurveKeys([{ frame: 1, value: 2 }]), isCurveKeys([])]).toEqual([false, false])
})

test('a fade in, a rest and a fade out are four keys; what is all alike is one', () => {
  const levels = Array.from({ length: 40 }, (_, i) => ({
    frame: 1001 + i,
    level: Math.min(1, i / 10, (39 - i) / 9) + (i % 2 === 0 ? 0.004 : -0.004),
  }))
  const few = fewestKeys(levels, 0.02)
  expect(few.map(({ frame }) => frame)).toHaveLength(4)
  for (const { frame, level } of levels) expect(Math.abs(levelAt(few, frame) - level)).toBeLessThan(0.021)
  expect(fewestKeys(levels.slice(12, 28), 0.02)).toHaveLength(1)
  expect(fewestKeys([], 0.02)).toEqual([])
})
