import { LUMA_STEPS, lumaHistogram, lumaWaveform } from './scopes'

const picture = (width: number, colours: readonly (readonly [number, number, number])[]) => ({
  width,
  height: colours.length / width,
  data: Uint8ClampedArray.from(colours.flatMap((colour) => [...colour, 255])),
})

test('every grey has its own value; the primaries weigh as the standard has them', () => {
  const greys = picture(
    16,
    Array.from({ length: 256 }, (_, i) => [i, i, i] as const),
  )
  expect([...lumaHistogram(greys)]).toEqual(Array.from({ length: 256 }, () => 1))
  // ITU-R BT.709-6, item 3.2: Y' = 0.2126 R' + 0.7152 G' + 0.0722 B'.
  const primaries = picture(3, [[255, 0, 0], [0, 255, 0], [0, 0, 255]]) // prettier-ignore
  const counts = lumaHistogram(primaries)
  for (const weight of [0.2126, 0.7152, 0.0722]) expect(counts[Math.round(255 * weight)]).toBe(1)
})

test('columns have their pixels from left to right, and none is lost', () => {
  const ramp = picture(10, Array.from({ length: 40 }, (_, i) => [20 * (i % 10), 20 * (i % 10), 20 * (i % 10)] as const)) // prettier-ignore
  const whole = lumaWaveform(ramp, 10)
  for (let col = 0; col < 10; col++) expect(whole[col * LUMA_STEPS + 20 * col]).toBe(4)
  const thinned = lumaWaveform(ramp, 5)
  expect(thinned[20 * 0]).toBe(4)
  expect(thinned[20 * 1]).toBe(4)
  expect(thinned[4 * LUMA_STEPS + 180]).toBe(4)
  expect(thinned.reduce((sum, one) => sum + one, 0)).toBe(40)
  for (const wrong of [0, 11, Number.NaN])
    expect(() => lumaWaveform(ramp, wrong)).toThrow('columns must be 1 to 10')
})
