/** What is said of a mark that was taken off. */
import { doubtAbout, wordsOfDoubt, type MarkTold } from './markDoubts'

const clear = { denseShare: 0 }
const told: MarkTold = { minSure: 1, seenShare: 0.9, byEdges: null }
const byEdges = { share: 0.62, opacityDeviation: 0.012 }

test('the gravest doubt is said first', () => {
  expect(doubtAbout({ denseShare: 0.9 }, { minSure: 0.1, seenShare: 0, byEdges })).toBe('opaque')
  expect(doubtAbout(clear, { minSure: 0.1, seenShare: 0, byEdges })).toBe('place')
  expect(doubtAbout(clear, { ...told, seenShare: 0, byEdges })).toBe('edges')
  expect(doubtAbout(clear, { ...told, seenShare: 0.05 })).toBe('ground')
  expect(doubtAbout(clear, told)).toBeNull()
})

test('a little that edges told is no matter', () =>
  expect(doubtAbout(clear, { ...told, byEdges: { ...byEdges, share: 0.05 } })).toBeNull())

test('words say how much, and how sure', () => {
  expect(wordsOfDoubt('edges', { ...told, byEdges })).toBe(
    'Nothing moves under 62 % of the mark: there its own edges told it, its opacity to ± 2 %. Look at the result closely.',
  )
  expect(wordsOfDoubt('edges', { ...told, byEdges: { share: 1, opacityDeviation: null } })).toContain(
    'how sure cannot be said',
  )
  expect(wordsOfDoubt('ground', { ...told, seenShare: 0.07 })).toContain('only 7 %')
})
