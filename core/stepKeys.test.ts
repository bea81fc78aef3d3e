import {
  hasStepKeyAt,
  stepAt,
  stepNumber,
  isStepKeys,
  settledAt,
  withStepKeyAt,
  withStepValue,
  withoutStepKeyAt,
} from './stepKeys'

const keys = [
  { frame: 1005, value: -5 },
  { frame: 1012, value: 7 },
]

test('a key holds until the next, the first one also before it', () => {
  expect([1001, 1005, 1011, 1012, 1048].map((frame) => stepAt(keys, frame))).toEqual([-5, -5, -5, 7, 7])
  expect(settledAt(keys, 1030)).toEqual([{ frame: 0, value: 7 }])
})

test('a single key is changed where it is; of several the one that holds', () => {
  expect(withStepValue([{ frame: 0, value: -5 }], 1020, 3)).toEqual([{ frame: 0, value: 3 }])
  expect(withStepValue(keys, 1010, 3)).toEqual([{ frame: 1005, value: 3 }, keys[1]])
  expect(withStepValue(keys, 1001, 3)[0]).toEqual({ frame: 1005, value: 3 })
})

test('keys are set and removed in order; the last one stays', () => {
  expect(withStepKeyAt(keys, 1008, 2).map(({ frame }) => frame)).toEqual([1005, 1008, 1012])
  expect(withStepKeyAt(keys, 1012, 2)).toEqual([keys[0], { frame: 1012, value: 2 }])
  expect(withoutStepKeyAt(keys, 1005)).toEqual([keys[1]])
  expect(withoutStepKeyAt([keys[0]!], 1005)).toEqual([keys[0]])
  expect(hasStepKeyAt(keys, 1012)).toBe(true)
  expect(hasStepKeyAt([keys[0]!], 1005)).toBe(false)
})

test('its schema starts with one key, and refuses keys out of order, out of range or none', () => {
  const schema = stepNumber(-10, 10, -5)
  expect(schema.parse(undefined)).toEqual([{ frame: 0, value: -5 }])
  expect(isStepKeys(schema.parse(undefined))).toBe(true)
  expect(schema.safeParse([keys[1], keys[0]]).success).toBe(false)
  expect(schema.safeParse([{ frame: 1, value: 11 }]).success).toBe(false)
  expect(schema.safeParse([]).success).toBe(false)
  expect([isStepKeys('median'), isStepKeys([1, 2]), isStepKeys([])]).toEqual([false, false, false])
})
