import { packFill, unpackFill } from './packedFill'

const full = {
  ok: true as const,
  values: Float32Array.of(0.1, 0.2, 0.3, -1, 7, 1e-9),
  grainKept: Float32Array.of(0.5, 1),
  needed: Float32Array.of(0, 1),
  grainless: Float32Array.of(0.1, NaN, 0.3, NaN, 6, 1e-9),
  shade: { by: 'frames' as const, depthStops: [1.2, 1.1, 0.9], glintShare: 0.02 },
  gathered: {
    seenShare: 0.92,
    unseenWidePx: 3,
    ghostShare: 0,
    registrationSure: 0.8,
    frames: 24,
    grainDeviations: [0.01, 0.02, 0.03],
    weighed: { undone: 0.01, others: 0.02, weighed: 0.009, ghost: -0.05, ghostSure: 2 },
    seen: Float32Array.of(4, -1),
    from: Int32Array.of(1007, -1),
  },
}

test('what was gathered comes back to the bit, with and without what is not always there', () => {
  expect(unpackFill(packFill(full))).toEqual(full)
  const { needed: _needed, grainless: _grainless, shade: _shade, gathered: _gathered, ...bare } = full
  expect(unpackFill(packFill(bare))).toEqual(bare)
})

test('it may lie anywhere', () => {
  const bytes = packFill(full)
  const shifted = new Uint8Array(bytes.length + 3)
  shifted.set(bytes, 3)
  expect(unpackFill(shifted.subarray(3))).toEqual(full)
})

test('bytes that were cut off, or are something else, are nothing', () => {
  const bytes = packFill(full)
  for (const length of [0, 7, 8, 20, bytes.length - 4, bytes.length - 1])
    expect(unpackFill(bytes.slice(0, length))).toBeNull()
  const other = bytes.slice()
  other[0]!++
  expect(unpackFill(other)).toBeNull()
  const broken = bytes.slice()
  broken[9] = 0x7d
  expect(unpackFill(broken)).toBeNull()
})
