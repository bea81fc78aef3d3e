import fc from 'fast-check'
import { floatsAt, ROOMY_BYTES } from '../../tests/fixtures/samplePlaces'
import { withKernelMemory } from '../kernels/memory'
import { kernels } from '../kernels/module'
import { joinInto, openJoining, reserveJoined, sortingNetwork } from './join'

const STRIDE = 4

/** What frames show of places, one value each; null where they show nothing. */
function joined(
  frames: readonly (readonly (number | null)[])[],
  weights: readonly number[],
  tolerance = 0.1,
) {
  return withKernelMemory(ROOMY_BYTES, (scope) => {
    const [values, kept] = [
      scope.floats(frames.length * STRIDE).fill(0),
      scope.floats(frames.length * STRIDE).fill(-1),
    ]
    frames.forEach((places, f) =>
      places.forEach((value, k) => {
        values[f * STRIDE + k] = value ?? 0
        kept[f * STRIDE + k] = value === null ? -1 : 1
      }),
    )
    const readings = {
      values: values.byteOffset,
      kept: kept.byteOffset,
      frames: frames.length,
      stride: STRIDE,
      channels: 1,
    }
    const out = reserveJoined(scope, STRIDE, 1)
    joinInto(out, readings, openJoining(scope, weights, [tolerance]), STRIDE)
    const plain = (at: number) => [...floatsAt(at, STRIDE)]
    return {
      values: plain(out.values),
      variance: plain(out.variance),
      seen: plain(out.seen),
      agree: plain(out.agree),
      from: [...new Int32Array(kernels().memory.buffer, out.from, STRIDE)],
    }
  })
}

const frames = [
  [0.2, 0.2],
  [0.22, 0.22],
  [0.21, null],
  [0.9, 0.9],
]
const alike = [1, 1, 1, 1]

test('is the mean of what agrees with the weighted median; what is far off has no say', () => {
  const { values, seen, agree, from } = joined(frames, alike)
  // By hand: the median of four is the mean of the middle two, 0.215; weights fall as (1 - (off / 0.1)^2)^2.
  const weight = (value: number) => (1 - ((value - 0.215) / 0.1) ** 2) ** 2
  const [a, b, c] = [0.2, 0.22, 0.21]
  const expected = (a * weight(a) + b * weight(b) + c * weight(c)) / (weight(a) + weight(b) + weight(c))
  expect(values[0]).toBeCloseTo(expected, 6)
  expect(seen.slice(0, 2)).toEqual([4, 3])
  expect(agree[0]).toBeCloseTo(0.75, 6)
  expect(from[0]).toBeLessThan(3)
})

test('a frame that says more moves the median to itself', () => {
  const { values, from } = joined(frames, [1, 1, 1, 10])
  expect(values[0]).toBeCloseTo(0.9, 6)
  expect(from[0]).toBe(3)
})

test('what nobody saw stays 0 and is said to be unseen; the variance that is left falls with the number of frames', () => {
  const none = joined([[null]], [1])
  expect([none.seen[0], none.values[0], none.variance[0], none.from[0]]).toEqual([0, 0, 0, -1])
  expect(
    joined(
      Array.from({ length: 8 }, () => [0.4]),
      new Array<number>(8).fill(1),
    ).variance[0],
  ).toBeCloseTo(1 / 8, 6)
})

test('a frame that sees nothing changes nothing, wherever it stands', () => {
  const [a, b] = [
    joined([...frames, [null, null]], [...alike, 5]),
    joined([[null, null], ...frames], [5, ...alike]),
  ]
  const plain = joined(frames, alike)
  for (const one of [a, b]) {
    expect(one.seen).toEqual(plain.seen)
    one.values.forEach((value, k) => expect(value).toBeCloseTo(plain.values[k]!, 6))
  }
})

test('the network sorts any number of anything (Batcher 1968; by the zero-one principle, Knuth 5.3.4)', () => {
  for (const count of [1, 2, 3, 5, 8, 13, 24, 31]) {
    const network = sortingNetwork(count)
    const bits = fc.array(fc.integer({ min: 0, max: 1 }), { minLength: count, maxLength: count })
    fc.assert(
      fc.property(bits, (given) => {
        const list = [...given]
        for (let i = 0; i < network.length; i += 2) {
          const [a, b] = [network[i]! / 16, network[i + 1]! / 16]
          if (list[a]! > list[b]!) [list[a], list[b]] = [list[b]!, list[a]!]
        }
        expect(list).toEqual([...given].sort((a, b) => a - b))
      }),
      { seed: 4, numRuns: 100 },
    )
  }
})
