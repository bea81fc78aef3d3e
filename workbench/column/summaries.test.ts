import { defaultsOf, fillMethods, findFill } from '../../core/fill/registry'
import { DEFAULT_FINISH } from '../../core/document/mend'
import { newTrack } from '../../core/document/follow'
import { drawnArea } from '../../core/document/areaCommands'
import { outlineThrough } from '../../core/document/keys'
import { sampleEllipse, sampleMend, samplePath } from '../../tests/fixtures/sampleMend'
import type { Track } from '../../core/document/tracks'
import { carriedBy, stabilisedView, releasedView } from '../picture/stabilisedView'
import { polygonPath } from '../picture/pathOutline'
import {
  areaSummary,
  areaWords,
  fillSummary,
  finishSummary,
  motionSummary,
  spanSummary,
  sureWords,
} from './summaries'

const span = { firstFrame: 1001, lastFrame: 1048 }
const NO_TRACKS = new Map<string, Track>()
const uses = { position: true, rotation: true, scale: true, skew: true }
const track: Track = { ...newTrack('t', 'point', 'Point 1', 1001, [10, 10]), frames: [[1001, 1, 10, 10], [1002, 0.3, 14, 8], [1003, 0.9, 18, 6]] } // prettier-ignore
const tracks = new Map([['t', track]])

test('an area is told in a line: its shape and size, and how many there are', () => {
  expect(areaWords(samplePath(), NO_TRACKS, 1001)).toBe('Path · 2 points · 6.0 px wide')
  expect(areaWords(sampleEllipse(), NO_TRACKS, 1001)).toBe('Ellipse · 24 × 16 px')
  const box = drawnArea(
    'b',
    { shape: 'box', x: 1, y: 2, widthPx: 30, heightPx: 20, turnDeg: 0, cornerPx: 0 },
    1001,
  )
  expect(areaWords(box, NO_TRACKS, 1001)).toBe('Box · 30 × 20 px')
  const places = [{ x: 0, y: 0 }, { x: 9, y: 0 }, { x: 9, y: 9 }] // prettier-ignore
  expect(
    areaWords(
      drawnArea('o', { shape: 'outline', points: outlineThrough(places, 'corner') }, 1001),
      NO_TRACKS,
      1001,
    ),
  ).toBe('Outline · 3 points')
  const matte = {
    shape: 'matte' as const,
    id: 'm',
    role: 'cover' as const,
    interpolation: 'smooth' as const,
    follow: null,
    pattern: 'm.####.png',
    keys: [],
  }
  expect(areaWords(matte, NO_TRACKS, 1001)).toBe('Matte sequence')
  const many = sampleMend({
    areas: [sampleEllipse(), sampleEllipse({ id: 'e2' }), sampleEllipse({ id: 'h', role: 'holdout' })],
  })
  expect(areaSummary(many, NO_TRACKS, 1001)).toBe('2 areas · ellipse · 1 held out')
  expect(motionSummary(matte, NO_TRACKS)).toBe('By its pictures')
})

test('motion is told: still, keyed, following with offsets and unsure frames, clinging', () => {
  expect(motionSummary(sampleEllipse(), NO_TRACKS)).toBe('Still')
  const key = sampleEllipse().keys[0]!
  const keyed = sampleEllipse({ keys: [key, { ...key, frame: 1010 }] })
  expect(motionSummary(keyed, NO_TRACKS)).toBe('Keyed · 2 keys, smooth')
  expect(motionSummary({ ...keyed, follow: { trackId: 't', uses } }, tracks)).toBe(
    'Follows Point 1, 1 offsets · 1 unsure',
  )
  const cling = new Map([['t', { ...track, kind: 'cling' as const, frames: [] }]])
  expect(motionSummary(samplePath({ follow: { trackId: 't', uses } }), cling)).toBe('Clings')
  expect([1001, 1002, 1009].map((frame) => sureWords(track, frame))).toEqual([
    '100 % sure',
    '30 % sure',
    'nothing here',
  ])
})

test('a view that rides on a track keeps what it follows in place, and gives itself back', () => {
  const view = { scale: 2, left: 30, top: 40 }
  const carried = carriedBy(track, 1003)
  expect(carried).toEqual({ dx: 8, dy: -4 })
  const held = stabilisedView(view, carried)
  const on = (v: typeof view, x: number, y: number) => [x * v.scale + v.left, y * v.scale + v.top]
  expect(on(held, 18, 6)).toEqual(on(view, 10, 10))
  expect(releasedView(held, carried)).toEqual(view)
  const line: Track = { ...track, kind: 'cling', frames: [[1001, 1, 0, 0, 4, 0, 100, 4], [1002, 1, 20, 0, 4, 20, 100, 4]] } // prettier-ignore
  expect(carriedBy(line, 1002)).toEqual({ dx: 20, dy: 0 })
  expect(carriedBy({ ...track, frames: [] }, 1002)).toEqual({ dx: 0, dy: 0 })
})

test('a polygon is drawn closed, in screen px', () => {
  expect(polygonPath([0, 0, 10, 0, 10, 5], { scale: 2, left: 1, top: 3 })).toBe(
    'M1.00 3.00L21.00 3.00L21.00 13.00Z',
  )
  expect(polygonPath([], { scale: 1, left: 0, top: 0 })).toBe('')
})

const filled = (id: string, over: Parameters<typeof sampleMend>[0] = {}) =>
  sampleMend({ fill: { methodId: id, methodVersion: 1, params: defaultsOf(findFill(id)!) }, ...over })

test('a fill is told with where it takes from, and whether it lacks a source', () => {
  expect(fillSummary(filled('across'))).toBe('Across — from both sides')
  expect(fillSummary(filled('clone'))).toBe('Clone · no source yet')
  const source = {
    keys: [{ frame: 1001, dx: 9, dy: 0, turnDeg: 0, scale: 1 }],
    interpolation: 'smooth' as const,
    follow: null,
  }
  expect(fillSummary(filled('clone', { source }))).toBe('Clone — from its source')
  for (const { id } of fillMethods) expect(fillSummary(filled(id, { source }))).not.toMatch(/around/)
  expect(fillSummary(sampleMend({ fill: { methodId: 'magic', methodVersion: 1, params: {} } }))).toBe('magic')
})

test('a finish is told with what was changed of it', () => {
  expect(finishSummary(filled('heal'))).toBe('Feather 1.5 px · grain matched')
  const changed = {
    ...DEFAULT_FINISH,
    featherInPx: 1,
    grain: 0.5,
    exposureStops: 0.25,
    saturation: 0.9,
    strength: 0.8,
  }
  expect(finishSummary(filled('heal', { finish: changed }))).toBe(
    'Feather 2.5 px · grain 0.50× · +0.25 stops · saturation 0.90× · strength 0.80',
  )
  expect(finishSummary(filled('soften'))).toBe('Feather 1.5 px')
})

test('a span is told, with its ramps', () => {
  expect(spanSummary(sampleMend(), span)).toBe('1001–1048 · whole shot')
  expect(spanSummary(sampleMend({ span: { firstFrame: 1005, rampInFrames: 8 } }), span)).toBe(
    '1005–1048 · ramps 8 and 0 frames',
  )
})
