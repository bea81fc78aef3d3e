import { DraftDelay, hasDraft } from './drafts'
import { documentOf } from '../../tests/fixtures/sampleDocument'
import { fillOf, sampleMend } from '../../tests/fixtures/sampleMend'

test('a draft is asked for at once while full results take long, and hardly where they come soon', () => {
  const delay = new DraftDelay()
  // What is stored comes first.
  expect(delay.ms).toBeGreaterThanOrEqual(1000)
  delay.took(2000)
  const slow = delay.ms
  expect(slow).toBeLessThan(100)
  delay.took(200)
  expect(delay.ms).toBeGreaterThan(200)
  delay.took(5)
  expect(delay.ms).toBe(slow)
  expect(new DraftDelay(0).ms).toBe(0)
})

test('only frames on which something takes long have one', () => {
  const slow = sampleMend({ fill: fillOf('texture'), span: { firstFrame: 1010, lastFrame: 1020 } })
  const document = documentOf([sampleMend({ id: 'quick', fill: fillOf('soften') }), slow])
  expect([1009, 1010].map((frame) => hasDraft(document, frame))).toEqual([false, true])
  expect(hasDraft(null, 1010)).toBe(false)
})
