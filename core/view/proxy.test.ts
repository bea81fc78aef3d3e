import { halved, hasProxies, proxySize } from './proxy'

test('large pictures have proxies of half their size', () => {
  expect(hasProxies({ width: 1920, height: 1080 })).toBe(false)
  // The sizes of ITU-R BT.2020 and of cinema.
  expect(hasProxies({ width: 3840, height: 2160 })).toBe(true)
  expect(hasProxies({ width: 4096, height: 1716 })).toBe(true)
  expect(proxySize({ width: 4097, height: 2161 })).toEqual({ width: 2048, height: 1080 })
})

test('each pixel is the mean of four, rounded; what has no pair is left out', () => {
  const width = 5
  const data = Uint8ClampedArray.from({ length: 4 * width * 2 }, (_, i) => (i % 4 === 3 ? 255 : 10 * (i >> 2) + (i % 4))) // prettier-ignore
  const small = halved({ width, height: 2, data })
  expect([small.width, small.height]).toEqual([2, 1])
  // Pixels 0, 1, 5, 6 are 0, 10, 50, 60; pixels 2, 3, 7, 8 are 20, 30, 70, 80.
  expect([...small.data]).toEqual([30, 31, 32, 255, 50, 51, 52, 255])
  const odd = halved({ width: 2, height: 2, data: Uint8ClampedArray.of(1, 0, 0, 0, 2, 0, 0, 0, 2, 0, 0, 0, 1, 0, 0, 0) }) // prettier-ignore
  expect([...odd.data]).toEqual([2, 0, 0, 255])
})
