import { sampleMend } from '../../core/mend/sampleMend'
import { cachedRuns } from './cachedRuns'
import { rulerLabels } from './ruler'
import { stitchAt, stitchPath } from './stitches'

const points = sampleMend().area.keys[0]!.points
const keyed = sampleMend({
  area: {
    shape: 'path',
    travel: 'smooth',
    keys: [
      { frame: 1003, points },
      { frame: 1006, points },
    ],
  },
  span: { firstFrame: 1002, lastFrame: 1008 },
})

test('stitches are solid on keys and at rest, thin between keys, gaps where the mend is off', () => {
  const looks = Array.from({ length: 9 }, (_, i) => stitchAt(keyed, 1001 + i))
  expect(looks).toEqual(['gap', 'solid', 'solid', 'thin', 'thin', 'solid', 'solid', 'solid', 'gap'])
  expect(stitchAt({ ...keyed, isOn: false }, 1003)).toBe('gap')
})

test('a row has one stitch a frame, and fewer where frames are too narrow', () => {
  expect(stitchPath(keyed, 1001, 1009, 10, 8, 'thin').match(/M/g)).toHaveLength(2)
  expect(stitchPath(sampleMend(), 1001, 1048, 0.5, 8, 'solid').match(/M/g)).toHaveLength(8)
})

test('the ruler labels evenly and never too much', () => {
  expect(rulerLabels(1001, 1048)).toEqual([1001, 1005, 1009, 1013, 1017, 1021, 1025, 1029, 1033, 1037, 1041, 1045])
  for (const count of [1, 7, 72, 1000, 25_000, 150_000]) expect(rulerLabels(1, count).length).toBeLessThanOrEqual(15)
})

test('ready frames are drawn as runs', () => {
  const ready = new Set([1, 2, 3, 5, 8, 9])
  expect(cachedRuns(1, 9, (frame) => ready.has(frame))).toEqual([
    { begin: 1, end: 4 },
    { begin: 5, end: 6 },
    { begin: 8, end: 10 },
  ])
})
