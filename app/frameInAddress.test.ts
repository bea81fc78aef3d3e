import { frameInAddress } from './frameInAddress'

test.each([
  ['frame=1008', 1008],
  ['frame=0', 0],
  ['frame=-4', -4],
  ['frame=', undefined],
  ['frame=x', undefined],
  ['frame=1.5', undefined],
  ['zoom=100', undefined],
])('an address with %s names the frame %s', (search, frame) => {
  expect(frameInAddress(new URLSearchParams(search))).toBe(frame)
})
