import { createCaches } from './cache'

test('what was worked out is kept for its plate, and the oldest goes when there is no more room', () => {
  const cacheOf = createCaches()
  const [a, b] = [cacheOf('a'), cacheOf('b')]
  const value = { costs: new Float32Array(4) }
  a.set('k', value)
  expect(a.get('k')).toBe(value)
  expect(b.get('k')).toBeUndefined()
  // Each a fifth of the room.
  const large = (i: number) => ({ parts: [{ data: new Float32Array(13 * 2 ** 20) }], i })
  for (let i = 0; i < 6; i++) b.set(`large ${i}`, large(i))
  expect(a.get('k')).toBeUndefined()
  expect(b.get('large 0')).toBeUndefined()
  expect(b.get('large 5')).toMatchObject({ i: 5 })
})
