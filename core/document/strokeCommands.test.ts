/** Strokes changed together: what is asked of some is done to those, in one step, wherever they ride. */
import { sampleRecord } from '../../tests/fixtures/sampleMend'
import { pointTrack } from '../../tests/fixtures/sampleTrack'
import { isStroke, type StrokeArea } from './areas'
import { DEFAULT_BRUSH, ridingStroke, strokeArea } from './brush'
import { ALL_PARTS } from './basics'
import type { MendEdit } from './edits'
import { geometryAt } from './keyedGeometry'
import { moveStroke, removeStrokes, retimeStrokes, setStrokes, shiftStrokes, strokesOf, widenStrokes } from './strokeCommands' // prettier-ignore
import type { Track } from './tracks'

const span = { firstFrame: 1, lastFrame: 48 }
const draw = (count: number) => Array.from({ length: count }, (_, i) => ({ x: 4 * i, y: 20 + i, pressure: 1 })) // prettier-ignore
const areas = ['a', 'b', 'c'].map((id) => strokeArea(id, draw(9), DEFAULT_BRUSH, 10, span))
const mend = sampleRecord({ kind: 'brush', name: 'Brush 1', areas, span: { ...span, rampInFrames: 0, rampOutFrames: 0 } }) // prettier-ignore
const after = (edit: MendEdit | null): StrokeArea[] => edit!.changes[0]!.after!.areas.filter(isStroke)
const points = (area: StrokeArea) => area.keys[0]!.points

test('strokes are changed together, ordered, and taken away in one step each', () => {
  const hidden = setStrokes(mend, new Set(['a', 'c']), (one) => ({ ...one, isHidden: true }), 'Hide')
  expect(hidden.label).toBe('Hide of 2 strokes of Brush 1')
  expect(strokesOf(hidden.changes[0]!.after!).map(({ stroke }) => stroke.isHidden)).toEqual([
    true,
    false,
    true,
  ])
  expect(moveStroke(mend, 'a', 1)!.changes[0]!.after!.areas.map(({ id }) => id)).toEqual(['b', 'a', 'c'])
  expect(moveStroke(mend, 'a', -1)).toBeNull()
  expect(removeStrokes(mend, new Set(['b']))!.changes[0]!.after!.areas.map(({ id }) => id)).toEqual([
    'a',
    'c',
  ])
  expect(removeStrokes(mend, new Set(['a', 'b', 'c']))).toBeNull()
})

test('moved and widened, those that were asked for alone', () => {
  const place = { tracks: new Map<string, Track>(), frame: 10 }
  const [a, b, c] = after(shiftStrokes(mend, new Set(['a', 'c']), { dx: 5, dy: -2 }, place))
  expect(points(a!)[0]).toMatchObject({ x: points(areas[0]!)[0]!.x + 5, y: points(areas[0]!)[0]!.y - 2 })
  expect(points(c!)).toEqual(points(a!))
  expect(b).toBe(areas[1])
  const [wide] = after(widenStrokes(mend, new Set(['a']), 2, place))
  expect(points(wide!).map(({ widthPx }) => widthPx)).toEqual(points(areas[0]!).map(() => 80))
  const [widest] = after(widenStrokes(mend, new Set(['a']), 1000, place))
  expect(points(widest!)[0]!.widthPx).toBe(400)
})

test('a stroke that rides on a track is moved where it is looked at, and goes on riding', () => {
  const track = pointTrack([[1, 2, 0], [10, 20, 0], [20, 40, 0]]) // prettier-ignore
  const tracks = new Map([['t', track]])
  const uses = { ...ALL_PARTS, rotation: false, scale: false, skew: false }
  const riding = ridingStroke(areas[0]!, tracks, 10, { trackId: 't', uses })
  const on = (area: StrokeArea, frame: number) => {
    const geometry = geometryAt(area, tracks, frame)
    return geometry.shape === 'path' ? geometry.points[0]!.x : NaN
  }
  expect(on(riding, 20) - on(riding, 10)).toBeCloseTo(20, 6)
  const [moved] = after(shiftStrokes({ ...mend, areas: [riding] }, new Set(['a']), { dx: 7, dy: 0 }, { tracks, frame: 20 })) // prettier-ignore
  expect(on(moved!, 20)).toBeCloseTo(on(riding, 20) + 7, 6)
  expect(on(moved!, 10)).toBeCloseTo(on(riding, 10) + 7, 6)
  expect(moved!.follow).toEqual(riding.follow)
})

test('retimed they stay as long as they were, within their mend', () => {
  const spans = (edit: MendEdit) =>
    after(edit).map(({ stroke }) => [stroke.span.firstFrame, stroke.span.lastFrame])
  const lasting = { ...mend, areas: [strokeArea('a', draw(3), { ...DEFAULT_BRUSH, lives: 'some', lastsFrames: 4 }, 10, span)] } // prettier-ignore
  expect(spans(retimeStrokes(lasting, new Set(['a']), 1))).toEqual([[11, 14]])
  expect(spans(retimeStrokes(lasting, new Set(['a']), 100))).toEqual([[45, 48]])
  expect(spans(retimeStrokes(lasting, new Set(['a']), -100))).toEqual([[1, 4]])
})
