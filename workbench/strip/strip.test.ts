import { sampleMend, samplePath } from '../../tests/fixtures/sampleMend'
import { cachedRuns } from './cachedRuns'
import { rulerLabels } from './ruler'
import { stitchAt, stitchPath } from './stitches'

const { points } = samplePath().keys[0]!
const keyed = sampleMend({
  areas: [samplePath({ keys: [1003, 1006].map((frame) => ({ frame, points })) })],
  span: { firstFrame: 1002, lastFrame: 1008 },
})

test('stitches are solid on keys and at rest, thin between keys, gaps where the mend is off', () => {
  const looks = Array.from({ length: 9 }, (_, i) => stitchAt(keyed, 1001 + i))
  expect(looks).toEqual(['gap', 'solid', 'solid', 'thin', 'thin', 'solid', 'solid', 'solid', 'gap'])
  expect(stitchAt({ ...keyed, isOn: false }, 1003)).toBe('gap')
  expect(stitchAt(keyed, 1004, new Set([1004]))).toBe('broken')
})

test('a row has one stitch a frame, and fewer where frames are too narrow', () => {
  expect(stitchPath((frame) => stitchAt(keyed, frame), 1001, 1009, 10, 8, 'thin').match(/M/g)).toHaveLength(2)
  expect(
    stitchPath((frame) => stitchAt(sampleMend(), frame), 1001, 1048, 0.5, 8, 'solid').match(/M/g),
  ).toHaveLength(8)
})

test('the ruler labels evenly and never too much', () => {
  expect(rulerLabels(1001, 1048)).toEqual([
    1001, 1005, 1009, 1013, 1017, 1021, 1025, 1029, 1033, 1037, 1041, 1045,
  ])
  for (const count of [1, 7, 72, 1000, 25_000, 150_000])
    expect(rulerLabels(1, count).length).toBeLessThanOrEqual(15)
})

test('a followed area is solid between its offsets, and a broken stitch has a gap', () => {
  const follow = { trackId: 't', uses: { position: true, rotation: true, scale: true, skew: true } }
  const followed = {
    ...keyed,
    areas: [samplePath({ follow, keys: [1003, 1006].map((frame) => ({ frame, points })) })],
  }
  expect(stitchAt(followed, 1004)).toBe('solid')
  expect(
    stitchPath((frame) => stitchAt(keyed, frame, new Set([1004])), 1001, 1009, 10, 8, 'broken').match(/M/g),
  ).toHaveLength(2)
})

test('ready frames are drawn as runs', () => {
  const ready = new Set([1, 2, 3, 5, 8, 9])
  expect(cachedRuns(1, 9, (frame) => ready.has(frame))).toEqual([
    { begin: 1, end: 4 },
    { begin: 5, end: 6 },
    { begin: 8, end: 10 },
  ])
})

test('on its ramps a mend has thin stitches', () => {
  const coming = sampleMend({
    span: { firstFrame: 1002, lastFrame: 1008, rampInFrames: 2, rampOutFrames: 1 },
  })
  expect(Array.from({ length: 9 }, (_, i) => stitchAt(coming, 1001 + i))).toEqual([
    'gap',
    'thin',
    'thin',
    'solid',
    'solid',
    'solid',
    'solid',
    'thin',
    'gap',
  ])
})
