import { sampleEllipse, sampleMend, samplePath } from '../../tests/fixtures/sampleMend'
import { ALL_PARTS } from './areas'
import { isOutlinedOnce } from './outlinedOnce'

const once = sampleEllipse()
const object = sampleMend({ kind: 'object', areas: [once] })

test('an object outlined on one frame only has something missing', () => {
  expect(isOutlinedOnce(object, once)).toBe(true)
})

test('moved along, carried along or held out, nothing is missing', () => {
  const moved = { ...once, keys: [...once.keys, { ...once.keys[0]!, frame: once.keys[0]!.frame + 5 }] }
  expect(isOutlinedOnce(object, moved)).toBe(false)
  expect(isOutlinedOnce(object, { ...once, follow: { trackId: 't', uses: ALL_PARTS } })).toBe(false)
  expect(isOutlinedOnce(object, { ...once, role: 'holdout' })).toBe(false)
})

test('what is still in the frame, lies on a line, or lasts one frame needs nothing more', () => {
  expect(isOutlinedOnce(sampleMend({ kind: 'dust', areas: [once] }), once)).toBe(false)
  expect(isOutlinedOnce(object, samplePath())).toBe(false)
  expect(
    isOutlinedOnce({ ...object, span: { ...object.span, lastFrame: object.span.firstFrame } }, once),
  ).toBe(false)
})
