import { sampleEllipse, sampleMend, samplePath } from '../../tests/fixtures/sampleMend'
import { ALL_PARTS } from './basics'
import { leavesGaps } from './outlineGaps'

const once = sampleEllipse()
const span = { firstFrame: 1001, lastFrame: 1048, rampInFrames: 0, rampOutFrames: 0 }
const object = sampleMend({ kind: 'object', areas: [once], span })

test('an object outlined on one frame or some leaves gaps', () => {
  expect(leavesGaps(object, once)).toBe(true)
  const moved = { ...once, keys: [...once.keys, { ...once.keys[0]!, frame: once.keys[0]!.frame + 5 }] }
  expect(leavesGaps(object, moved)).toBe(true)
})

test('so does a shadow', () => {
  expect(leavesGaps(sampleMend({ kind: 'shadow', areas: [once], span }), once)).toBe(true)
})

test('outlined on nearly every frame, carried along or held out, it leaves none', () => {
  const everywhere = {
    ...once,
    keys: Array.from({ length: 40 }, (_, i) => ({ ...once.keys[0]!, frame: 1001 + i })),
  }
  expect(leavesGaps(object, everywhere)).toBe(false)
  expect(leavesGaps(object, { ...once, follow: { trackId: 't', uses: ALL_PARTS } })).toBe(false)
  expect(leavesGaps(object, { ...once, role: 'holdout' })).toBe(false)
})

test('what is still in the frame, lies on a line, or lasts one frame needs nothing more', () => {
  expect(leavesGaps(sampleMend({ kind: 'dust', areas: [once], span }), once)).toBe(false)
  expect(leavesGaps(object, samplePath())).toBe(false)
  expect(leavesGaps({ ...object, span: { ...span, lastFrame: span.firstFrame } }, once)).toBe(false)
})
