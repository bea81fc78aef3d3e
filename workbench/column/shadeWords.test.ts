import { depthWords } from './ShadeFound'

test('a depth is told for each colour; of a picture without colours once', () => {
  expect(depthWords({ depthStops: [1.204, 1.1, 0.9] })).toBe('−1.20 red, −1.10 green, −0.90 blue stops')
  expect(depthWords({ depthStops: [0.5] })).toBe('−0.50 stops')
})
