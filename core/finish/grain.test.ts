import { grainAt, grainOver, seedFromText } from './grain'

test('grain has mean 0 and deviation 1 and is white', () => {
  let [sum, squares, neighbours, nextFrame] = [0, 0, 0, 0]
  const N = 200
  for (let row = 0; row < N; row++)
    for (let col = 0; col < N; col++) {
      const value = grainAt(5, 1001, col, row, 0)
      sum += value
      squares += value * value
      neighbours += value * grainAt(5, 1001, col + 1, row, 0)
      nextFrame += value * grainAt(5, 1002, col, row, 0)
    }
  const THREE_SIGMA = 3 / N
  expect(Math.abs(sum / N ** 2)).toBeLessThan(THREE_SIGMA)
  expect(Math.abs(squares / N ** 2 - 1)).toBeLessThan(2 * THREE_SIGMA)
  expect(Math.abs(neighbours / N ** 2)).toBeLessThan(THREE_SIGMA)
  expect(Math.abs(nextFrame / N ** 2)).toBeLessThan(THREE_SIGMA)
})

test('it is a function of its place: known values stay', () => {
  const place = [grainAt(1, 1001, 10, 20, 0), grainAt(1, 1001, 10, 20, 1), grainAt(2, 1001, 10, 20, 0)]
  expect(new Set(place).size).toBe(3)
  expect(place).toEqual([
    grainAt(1, 1001, 10, 20, 0),
    grainAt(1, 1001, 10, 20, 1),
    grainAt(2, 1001, 10, 20, 0),
  ])
  expect(seedFromText('a')).toBe(0xe40c292c | 0) // FNV-1a test vector of its authors: "a" gives e40c292c
})

test('coarse grain keeps its deviation, is correlated as asked, and does not depend on the crop', () => {
  const rect = { col: 40, row: 30, width: 160, height: 120 }
  const pixels = Int32Array.from({ length: rect.width * rect.height }, (_, i) => i)
  const grain = grainOver(3, 1001, rect, pixels, 1, 0.6)
  let [squares, neighbours] = [0, 0]
  for (let i = 0; i < grain.length; i++) {
    squares += grain[i]! ** 2
    if (i % rect.width < rect.width - 1) neighbours += grain[i]! * grain[i + 1]!
  }
  expect(Math.abs(squares / grain.length - 1)).toBeLessThan(0.05)
  // Of a Gaussian blur of deviation s the correlation at lag 1 is exp(-1 / 4 s²); taps on whole pixels come near it.
  expect(Math.abs(neighbours / squares - Math.exp(-1 / (4 * 0.36)))).toBeLessThan(0.06)
  const small = { col: 50, row: 44, width: 9, height: 7 }
  const part = grainOver(3, 1001, small, Int32Array.of(0, 13, 62), 1, 0.6)
  const at = (pixel: number) =>
    grain[(small.row - rect.row + Math.floor(pixel / 9)) * rect.width + small.col - rect.col + (pixel % 9)]
  expect([...part]).toEqual([at(0), at(13), at(62)])
})
