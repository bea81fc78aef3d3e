import { progressOf, progressWords, sizeWords } from './progress'

test('rate and time left come from what was done', () => {
  expect(progressOf(12, 48, 2)).toEqual({ done: 12, total: 48, framesPerSecond: 6, secondsLeft: 6 })
  expect(progressOf(0, 48, 0)).toMatchObject({ framesPerSecond: null, secondsLeft: null })
  expect(progressOf(5, null, 1)).toMatchObject({ framesPerSecond: 5, secondsLeft: null })
})

test('in words', () => {
  expect(progressWords(progressOf(12, 48, 2))).toBe('12 of 48 frames · 6.0 fps · 6 s left')
  expect(progressWords(progressOf(1, 1000, 1))).toBe('1 of 1000 frames · 1.0 fps · 17 min left')
  expect(progressWords(progressOf(3, null, null))).toBe('3 frames')
  expect([999, 1500, 2_500_000_000].map(sizeWords)).toEqual(['999 B', '1.5 kB', '2.5 GB'])
})
