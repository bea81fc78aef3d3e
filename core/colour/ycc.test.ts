import { blueDifference, brightnessOf, redDifference } from './ycc'

const codes = (red: number, green: number, blue: number) => {
  const brightness = brightnessOf(red / 255, green / 255, blue / 255)
  return [brightness, blueDifference(blue / 255, brightness), redDifference(red / 255, brightness)].map(
    (one) => 255 * one,
  )
}

/** Reference: ITU-T T.871 (2011), clause 7, by its formulas: Y = .299 R + .587 G + .114 B, Cb = −.1687 R − .3313 G + .5 B + 128, Cr = .5 R − .4187 G − .0813 B + 128; here without the 128. */
test.each([
  [255, 255, 255],
  [255, 0, 0],
  [0, 255, 0],
  [0, 0, 255],
  [200, 150, 120],
])('%d, %d, %d as T.871 has it', (red, green, blue) => {
  const [brightness, inBlue, inRed] = codes(red, green, blue)
  expect(brightness).toBeCloseTo(0.299 * red + 0.587 * green + 0.114 * blue, 3)
  expect(Math.abs(inBlue! - (-0.1687 * red - 0.3313 * green + 0.5 * blue))).toBeLessThan(0.05)
  expect(Math.abs(inRed! - (0.5 * red - 0.4187 * green - 0.0813 * blue))).toBeLessThan(0.05)
})

test('light that is added in all three alike changes brightness only', () => {
  const [, blue, red] = codes(120, 90, 70)
  const [, lighterBlue, lighterRed] = codes(180, 150, 130)
  expect(lighterBlue).toBeCloseTo(blue!, 6)
  expect(lighterRed).toBeCloseTo(red!, 6)
})
