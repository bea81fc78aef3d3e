import { sampleEllipse, sampleRecord } from '../../tests/fixtures/sampleMend'
import { expectedOutlines, followThingFound, isOfThing } from './followedThing'
import type { Geometry, KeyedArea } from './areas'
import { geometryAt } from './keyedGeometry'
import { withGeometryAt } from './keys'
import { boundsOfPolygon } from '../geometry/polygon'

const picture = { width: 400, height: 200 }
const key = (frame: number, x: number, radiusXPx = 20) => ({
  frame,
  x,
  y: 90,
  radiusXPx,
  radiusYPx: 30,
  turnDeg: 0,
})
const NONE = new Map()

const followed = (keys: ReturnType<typeof key>[], at: (frame: number) => number) => {
  const area = sampleEllipse({ keys })
  const record = sampleRecord({ kind: 'object', areas: [area] })
  const outlines = expectedOutlines(area, NONE, picture, { firstFrame: 1001, lastFrame: 1021 })
  const frames = outlines.map(({ frame, x, y, isDrawn }) => ({
    frame,
    sure: 1,
    values: [isDrawn ? x : at(frame), y],
  }))
  const edit = followThingFound({ records: new Map(), tracks: NONE }, record, area, picture, frames, 't')
  const tracks = new Map([['t', edit.tracks[0]!.after!]])
  const [after] = edit.changes[0]!.after!.areas
  return {
    outlines,
    edit,
    at: (frame: number) => geometryAt(after as never, tracks, frame) as unknown as ReturnType<typeof key>,
  }
}

test('on frames with keys the area stays as it was drawn; between them it is where the thing was found, in a shape between', () => {
  const { at, edit } = followed(
    [key(1001, 100), key(1011, 150, 26), key(1021, 300)],
    (frame) => 2 * (frame - 1001) + 200,
  )
  expect(at(1001)).toMatchObject({ x: 100, radiusXPx: 20 })
  expect(at(1011)).toMatchObject({ x: 150, radiusXPx: 26 })
  expect(at(1021)).toMatchObject({ x: 300, radiusXPx: 20 })
  expect(at(1006).x).toBeCloseTo(210, 6)
  expect(at(1006).radiusXPx).toBeGreaterThan(20)
  expect(edit.label).toBe('Wire 1 follows Thing 1')
})

test('followed again, after an outline was set right, the track stays the same one', () => {
  const { edit } = followed([key(1001, 100), key(1021, 300)], (frame) => 2 * (frame - 1001) + 200)
  const before = edit.tracks[0]!.after!
  const tracks = new Map([['t', before]])
  const record = edit.changes[0]!.after!
  const area = record.areas[0] as Extract<KeyedArea, { shape: 'ellipse' }>
  const set = withGeometryAt(area, tracks, 1011, { ...geometryAt(area, tracks, 1011), x: 250 } as Geometry)
  const range = { firstFrame: 1001, lastFrame: 1021 }
  const outlines = expectedOutlines(set, tracks, picture, range)
  expect(outlines.filter(({ isDrawn }) => isDrawn).map(({ frame, x }) => [frame, Math.round(x)])).toEqual([
    [1001, 100],
    [1011, 250],
    [1021, 300],
  ])
  const frames = outlines.map(({ frame, x, y }) => ({ frame, sure: 1, values: [x, y] }))
  const again = followThingFound({ records: new Map(), tracks }, record, set, picture, frames, 'other')
  expect(again.tracks).toMatchObject([{ id: 't', before: { name: 'Thing 1' }, after: { name: 'Thing 1' } }])
})

test('cut off by the border, a thing is expected whole, its inner edge where it was', () => {
  // Of an ellipse 60 px wide the border leaves 12.
  const { outlines, at } = followed(
    [key(1001, 396, 6), key(1011, 300, 30)],
    (frame) => 300 + (1011 - frame) * 12,
  )
  const [drawn, beside] = outlines.map(({ polygon }) => boundsOfPolygon(polygon))
  expect(drawn!.left).toBeCloseTo(390, 1)
  expect(beside!.left).toBeCloseTo(390, 1)
  expect(beside!.right - beside!.left).toBeCloseTo(60, 1)
  expect(at(1001)).toMatchObject({ x: 396, radiusXPx: 6 })
  expect(at(1002)).toMatchObject({ radiusXPx: 30 })
  expect(at(1002).x).toBeCloseTo(408, 6)
})

test('lines and mattes have no thing', () => {
  expect(isOfThing(sampleEllipse())).toBe(true)
  expect(sampleRecord().areas.map(isOfThing)).toEqual([false])
})
