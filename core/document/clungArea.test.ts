import type { PathArea } from './areas'
import { clungArea } from './clungArea'
import { newTrack } from './follow'
import { geometryAt } from './keyedGeometry'
import { withGeometryAt } from './keys'
import { samplePath } from '../../tests/fixtures/sampleMend'
import { withRows, type Track, type TrackRow } from './tracks'

const span = { firstFrame: 1001, lastFrame: 1010 }
/** A line of three points that drifts by 3 px a frame; `off` shifts what was found. */
const rowAt = (frame: number, off = 0): TrackRow =>
  [frame, 1, ...[0, 50, 100].flatMap((y) => [20 + 3 * (frame - 1001) + off, y, 5])] as TrackRow
const rows = (first: number, last: number, off = 0) =>
  Array.from({ length: last - first + 1 }, (_, i) => rowAt(first + i, off))
const cling: Track = { ...newTrack('c', 'cling', 'Cling', 1005, []), frames: rows(1001, 1010) }
const before = new Map([['c', cling]])
const xs = (area: PathArea, tracks: ReadonlyMap<string, Track>, frame: number) => {
  const seen = geometryAt(area, tracks, frame)
  return seen.shape === 'path' ? seen.points.map((point) => Math.round(point.x * 100) / 100) : []
}
const drawn = samplePath()
const clung = clungArea(drawn, new Map(), cling, span, 1005, span)

test('a drawn path lies on what was found, with one key and no offset', () => {
  expect(clung.follow?.trackId).toBe('c')
  expect(clung.keys).toHaveLength(1)
  expect(xs(clung, before, 1005)).toEqual([32, 32, 32])
  expect(xs(clung, before, 1009)).toEqual([44, 44, 44])
})

test('following a part anew leaves what was set right elsewhere as it looked', () => {
  const seen = geometryAt(clung, before, 1003)
  if (seen.shape !== 'path') throw new Error('a path stays a path')
  const shifted = { ...seen, points: seen.points.map((point) => ({ ...point, x: point.x - 4 })) }
  const right = withGeometryAt(clung, before, 1003, shifted) as PathArea
  const track = withRows(cling, rows(1007, 1010, 2))
  const again = clungArea(right, before, track, span, 1007, { firstFrame: 1007, lastFrame: 1010 })
  const after = new Map([['c', track]])
  expect(xs(again, after, 1003)).toEqual(xs(right, before, 1003))
  for (const frame of [1007, 1010]) expect(xs(again, after, frame)).toEqual(xs(clung, after, frame))
})

test('following everything anew drops what was set right before: the line itself is there now', () => {
  const right = withGeometryAt(clung, before, 1003, geometryAt(clung, before, 1004)) as PathArea
  expect(clungArea(right, before, cling, span, 1005, span).keys).toHaveLength(1)
})
