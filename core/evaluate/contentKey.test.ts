import { createRandom } from '../../tests/random'
import { contentKey } from './contentKey'

test('the same content has the same name, wherever it lies', () => {
  const bytes = Uint8Array.from({ length: 40 }, (_, i) => 7 * i)
  const shifted = new Uint8Array(43)
  shifted.set(bytes, 3)
  expect(contentKey(['a', bytes])).toBe(contentKey(['a', shifted.subarray(3)]))
  expect(contentKey([Float32Array.of(1, 2)])).toBe(contentKey([Float32Array.of(1, 2)]))
  expect(contentKey([])).toMatch(/^[0-9a-f]{16}$/)
})

test('other content has another name: one bit, the order, where one part ends', () => {
  const random = createRandom(11)
  const names = new Set<string>()
  const base = Float32Array.from({ length: 300 }, () => random())
  names.add(contentKey([base]))
  for (let i = 0; i < base.length; i++) {
    for (const change of [1e-7, 0.5]) {
      const other = base.slice()
      other[i]! += change
      names.add(contentKey([other]))
    }
  }
  expect(names.size).toBe(601)
  expect(contentKey(['ab', 'c'])).not.toBe(contentKey(['a', 'bc']))
  expect(contentKey(['a', 'b'])).not.toBe(contentKey(['b', 'a']))
  expect(contentKey([Float32Array.of(1, 2)])).not.toBe(contentKey([Float32Array.of(2, 1)]))
  expect(contentKey([Float32Array.of(0)])).not.toBe(contentKey([Float32Array.of(0, 0)]))
})
