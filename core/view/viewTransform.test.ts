import {
  applyCurve,
  boostContrast,
  isPlain,
  PLAIN_VIEW,
  showChannel,
  showDifference,
  viewCurve,
  type ScreenPicture,
} from './viewTransform'

const pictureOf = (
  width: number,
  height: number,
  at: (col: number, row: number) => readonly number[],
): ScreenPicture => ({
  width,
  height,
  data: Uint8ClampedArray.from(
    { length: width * height * 4 },
    (_, i) => at((i >> 2) % width, Math.floor((i >> 2) / width))[i % 4] ?? 255,
  ),
})

test('plain is plain: no curve, and nothing to do', () => {
  expect(isPlain(PLAIN_VIEW)).toBe(true)
  expect(viewCurve(PLAIN_VIEW)).toBeNull()
  expect(isPlain({ ...PLAIN_VIEW, gamma: 1.2 })).toBe(false)
})

test('a stop doubles the light, as sRGB has it', () => {
  // IEC 61966-2-1: code 188 is light 0.5029, code 137 is 0.2502: a stop apart.
  const curve = viewCurve({ ...PLAIN_VIEW, exposureStops: 1 })!
  expect(Math.abs(curve[137]! - 188)).toBeLessThanOrEqual(1)
  expect(curve[255]).toBe(255)
  expect(viewCurve({ ...PLAIN_VIEW, exposureStops: -1 })![188]).toBe(137)
  const gamma = viewCurve({ ...PLAIN_VIEW, gamma: 2 })!
  expect(gamma[64]).toBe(Math.round(255 * Math.sqrt(64 / 255)))
  expect([gamma[0], gamma[255]]).toEqual([0, 255])
  const picture = pictureOf(2, 1, (col) => [col * 64, 0, 255])
  applyCurve(picture, gamma)
  expect([...picture.data]).toEqual([0, 0, 255, 255, 128, 0, 255, 255])
})

test('one channel is shown as grey', () => {
  const picture = pictureOf(1, 1, () => [10, 20, 30])
  showChannel(picture, 2)
  expect([...picture.data]).toEqual([30, 30, 30, 255])
})

test('a faint mote on a strong gradient stands out as much as one ten times as deep', () => {
  const depthShown = (depth: number) => {
    const picture = pictureOf(90, 60, (col, row) => {
      const r = Math.hypot(col - 45, row - 30) / 8
      const value = 60 + col + ((col * 7 + row * 13) % 5) - depth * Math.max(0, 1 - r * r)
      return [value, value, value]
    })
    boostContrast(picture, 20)
    return 128 - picture.data[(30 * 90 + 45) * 4]!
  }
  expect(depthShown(8)).toBeGreaterThan(20)
  expect(depthShown(80) / depthShown(8)).toBeLessThan(6)
  const flat = pictureOf(20, 20, () => [77, 77, 77])
  boostContrast(flat, 5)
  expect(flat.data.every((value, i) => value === (i % 4 === 3 ? 255 : 128))).toBe(true)
})

test('where two pictures agree their difference is mid grey', () => {
  const picture = pictureOf(2, 1, (col) => [100 + 10 * col, 100, 100])
  showDifference(picture, pictureOf(2, 1, () => [100, 100, 100]).data)
  expect([...picture.data]).toEqual([128, 128, 128, 255, 158, 128, 128, 255])
})
