import { readyDigests } from '../shot/digest'
import { documentOf } from '../../tests/fixtures/sampleDocument'
import { layerAt, NO_LAYER } from '../scene/layerMap'
import { runsFromCells } from '../scene/cellRuns'
import type { Scene } from '../scene/scene'
import { layerMapOf } from '../scene/sceneLayers'
import { apply } from '../geometry/transform'
import type { Area } from '../document/areas'
import { newTrack } from '../document/follow'
import { boxThrough } from './boxes'
import { aroundOf } from './keys'
import { isActiveAt, placeArea } from './placedArea'
import { planFrame } from './planFrame'
import { fillOf, sampleEllipse, sampleMend } from '../../tests/fixtures/sampleMend'
import type { Mend } from '../document/mend'
import { rampAt } from '../document/span'
import { restingSource } from '../document/sourceKeys'
import type { Track, Tracks } from '../document/tracks'

beforeAll(readyDigests)

const NO_TRACKS: Tracks = new Map()
const plate = { firstFrame: 1001, lastFrame: 1048 }
const requestsOf = (mend: Mend, frame: number, mends = [mend], tracks = NO_TRACKS, range = plate) =>
  planFrame(documentOf(mends, tracks, range), frame).placements.find((one) => one.mend.id === mend.id)!
    .requests
const framesOf = (requests: ReturnType<typeof requestsOf>, purpose: string) =>
  requests.filter((one) => one.purpose === purpose).map((one) => one.frame)

/** A curtain that comes from the right, 6 px a frame, and hides everything right of it. */
const curtain: Area = {
  shape: 'box',
  id: 'h',
  role: 'holdout',
  interpolation: 'linear',
  follow: null,
  keys: [1001, 1048].map((frame) => ({
    frame,
    x: 400 - 6 * (frame - 1001),
    y: 40,
    widthPx: 80,
    heightPx: 200,
    turnDeg: 0,
    cornerPx: 0,
  })),
}

test('ramps come and go in even steps, the first above nothing; outside the span there is nothing', () => {
  const span = { firstFrame: 1010, lastFrame: 1020, rampInFrames: 4, rampOutFrames: 1 }
  expect([1009, 1010, 1011, 1013, 1014, 1019, 1020, 1021].map((frame) => rampAt(span, frame))).toEqual([
    0, 0.2, 0.4, 0.8, 1, 1, 0.5, 0,
  ])
  const mend = sampleMend({ span })
  expect(isActiveAt(mend, 1009)).toBe(false)
  expect(planFrame(documentOf([mend], NO_TRACKS, plate), 1011).placements[0]!.share).toBeCloseTo(0.4, 10)
  expect(
    planFrame(documentOf([{ ...mend, finish: { ...mend.finish, strength: 0.5 } }], NO_TRACKS, plate), 1011)
      .placements[0]!.share,
  ).toBeCloseTo(0.2, 10)
})

test('only the frames that a fill and its finish look at are in the plan, and none beyond the span or the plate', () => {
  const wire = sampleMend()
  expect(framesOf(requestsOf(wire, 1020), 'beside')).toEqual([1018, 1019, 1021, 1022])
  expect(framesOf(requestsOf(wire, 1020), 'grain')).toEqual([1019, 1021])
  expect(framesOf(requestsOf(wire, 1001), 'beside')).toEqual([1002, 1003])
  expect(
    framesOf(requestsOf(wire, 1003, [wire], NO_TRACKS, { firstFrame: 1003, lastFrame: 1004 }), 'beside'),
  ).toEqual([1004])
  const own = {
    ...wire,
    fill: { ...wire.fill, params: { ...wire.fill.params, lean: 'own' } },
    finish: { ...wire.finish, grain: 0 },
  }
  expect(requestsOf(own, 1020)).toEqual([])
  const plain = sampleMend({ areas: [sampleEllipse()], fill: fillOf('soften') })
  expect(requestsOf(plain, 1020)).toEqual([])
})

test('every frame looked at comes with what covers something there', () => {
  const wire = sampleMend()
  const other = sampleMend({
    id: 'other',
    areas: [sampleEllipse()],
    span: { firstFrame: 1021, lastFrame: 1048 },
  })
  const masked = new Map(
    requestsOf(wire, 1020, [wire, other])
      .filter(({ purpose }) => purpose === 'beside')
      .map((one) => [one.frame, one.masked.map(({ mend }) => mend.id)]),
  )
  // Its own thing there is what it is about: what covers it there is the other's.
  expect([...masked.keys()]).toEqual([1018, 1019, 1021, 1022])
  expect([masked.get(1019), masked.get(1022)]).toEqual([[], ['other']])
})

const textured = (areas: Area[]) => sampleMend({ id: 'x', areas, fill: fillOf('texture') })

test('the anchor is where holdouts hide least of the surroundings, as near the middle as may be', () => {
  const alone = textured([sampleEllipse()])
  expect(framesOf(requestsOf(alone, 1030), 'anchor')).toEqual([1024])
  const held = textured([
    sampleEllipse({ keys: [{ frame: 1001, x: 300, y: 40, radiusXPx: 12, radiusYPx: 8, turnDeg: 0 }] }),
    curtain,
  ])
  // At the middle of the shot the curtain stands at 262 with its edge at 302: over the area. Before it came near it is clear.
  const [anchor] = framesOf(requestsOf(held, 1030), 'anchor') as [number]
  const edge = 400 - 6 * (anchor - 1001) - 40
  expect(edge >= 300 + 12 + 48 || edge + 80 <= 300 - 12 - 48).toBe(true)
})

test('the anchor sees all that an area covers during its span, carried by the ground; what coincides counts once', () => {
  const still = textured([sampleEllipse()])
  expect(requestsOf(still, 1030).find(({ purpose }) => purpose === 'anchor')!.shapes).toHaveLength(1)
  const keys = [1001, 1048].map((frame) => ({
    frame,
    x: 50 + frame - 1001,
    y: 40,
    radiusXPx: 12,
    radiusYPx: 8,
    turnDeg: 0,
  }))
  const moving = textured([sampleEllipse({ keys, interpolation: 'linear' })])
  expect(requestsOf(moving, 1030).find(({ purpose }) => purpose === 'anchor')!.shapes).toHaveLength(48)
  // Following the ground, it is the same piece of ground on every frame.
  const track: Track = { ...newTrack('t', 'point', 'T', 1001, [50, 40]), frames: Array.from({ length: 48 }, (_, i) => [1001 + i, 1, 50 + 2 * i, 40] as Track['frames'][number]) } // prettier-ignore
  const follow = { trackId: 't', uses: { position: true, rotation: false, scale: false, skew: false } }
  const following = textured([sampleEllipse({ follow })])
  const [anchor] = requestsOf(following, 1030, [following], new Map([['t', track]])).filter(
    ({ purpose }) => purpose === 'anchor',
  )
  expect(anchor!.shapes).toHaveLength(1)
  expect(apply(anchor!.groundFromHere, 100, 40).x).toBeCloseTo(100 + 2 * (anchor!.frame - 1030), 6)
})

test('while a holdout lies over the source, the nearest clear frames before and after are looked at', () => {
  const source = restingSource(plate, { dx: 90, dy: 0, turnDeg: 0, scale: 1 })
  const patch = sampleMend({ id: 'p', areas: [sampleEllipse({ keys: [{ frame: 1001, x: 120, y: 40, radiusXPx: 12, radiusYPx: 8, turnDeg: 0 }] }), curtain], fill: fillOf('clone'), source }) // prettier-ignore
  expect(framesOf(requestsOf(patch, 1002), 'clear')).toEqual([])
  const hidden = 1032 // the curtain stands over 214, where the source is
  const clear = framesOf(requestsOf(patch, hidden), 'clear')
  expect(clear).toHaveLength(2)
  for (const frame of clear) {
    const edge = 400 - 6 * (frame - 1001) - 40
    expect(edge > 210 + 12 || edge + 80 < 210 - 12).toBe(true)
  }
  expect(clear[0]!).toBeLessThan(hidden)
  expect(clear[1]!).toBeGreaterThan(hidden)
})

test('an area is worked out once for each frame, until its tracks change', () => {
  const follow = { trackId: 't', uses: { position: true, rotation: false, scale: false, skew: false } }
  const area = sampleEllipse({ follow })
  const trackTo = (x: number): Track => ({ ...newTrack('t', 'point', 'T', 1001, [50, 40]), frames: [[1001, 1, 50, 40], [1005, 1, x, 40]] }) // prettier-ignore
  const [track, other] = [trackTo(60), trackTo(70)]
  const on = (one: Track) => placeArea(area, new Map([['t', one]]), 1005)
  expect(on(track)).toBe(on(track))
  expect(on(other)).not.toBe(on(track))
  expect([on(other).digest === on(track).digest, on(trackTo(70)).digest === on(other).digest]).toEqual([
    false,
    true,
  ])
})

test('a frame that is gathered from brings its own layers along, where the area’s surroundings have gone by then', () => {
  // Two layers; on each frame another column of cells is the second one.
  const cells = (frame: number) =>
    runsFromCells(Uint8Array.from({ length: 80 * 45 }, (_, at) => (at % 80 === frame - 1000 ? 1 : 0)))
  const frames = Array.from({ length: 48 }, (_, i) => 1001 + i)
  const scene: Scene = {
    format: 'fillagrant-scene',
    version: 1,
    plate: { width: 1280, height: 720, firstFrame: 1001, frameCount: 48 },
    layers: [0, 1].map((layer) => ({
      motions: frames.map((_, i): Scene['layers'][number]['motions'][number] => [
        1,
        0,
        (layer + 1) * i,
        0,
        1,
        0,
        0,
        0,
        1,
      ]),
      sure: frames.map(() => 1),
      points: 20,
      hiddenBy: layer === 0 ? [1] : [],
    })),
    exposureStops: frames.map(() => 0),
    cells: { cellPx: 16, cols: 80, rows: 45, frames: frames.map(cells) },
  }
  const mend = sampleMend({
    areas: [
      sampleEllipse({ keys: [{ frame: 1001, x: 300, y: 200, radiusXPx: 40, radiusYPx: 40, turnDeg: 0 }] }),
    ],
    fill: fillOf('clean-plate'),
  })
  const plan = planFrame(documentOf([mend], NO_TRACKS, plate, scene), 1021)
  const [placement] = plan.placements
  const around = aroundOf(scene, placement!)
  expect(layerAt(layerMapOf(scene, 1021, around)!, 21 * 16 + 8, 200)).toBe(1)
  const gathers = placement!.requests.filter(({ purpose }) => purpose === 'gather')
  expect(gathers.length).toBeGreaterThan(20)
  for (const { frame, layersFromHere } of gathers) {
    const away = frame - 1021
    expect(layersFromHere!.map((matrix) => matrix[2])).toEqual([away, 2 * away])
    const there = layerMapOf(scene, frame, boxThrough(layersFromHere![0]!, around))!
    const column = (frame - 1000) * 16 + 8
    const seen = layerAt(there, column, 200)
    // Further away than it is looked for, nothing is known.
    expect([1, NO_LAYER]).toContain(seen)
    if (Math.abs(column - 300 - away) < 120) expect(seen).toBe(1)
    if (Math.abs(21 * 16 + 8 - 300 - away) < 120 && away !== 0)
      expect(layerAt(there, 21 * 16 + 8, 200)).toBe(0)
  }
})

test('a fill’s own picture is placed by the ground from the frame on which it lies so; a frame that is not there is none', () => {
  const track: Track = { ...newTrack('t', 'point', 'T', 1001, [50, 40]), frames: Array.from({ length: 48 }, (_, i) => [1001 + i, 1, 50 + 2 * i, 40] as Track['frames'][number]) } // prettier-ignore
  const tracks = new Map([['t', track]])
  const follow = { trackId: 't', uses: { position: true, rotation: false, scale: false, skew: false } }
  const showing = (params: Record<string, unknown>) => {
    const fill = fillOf('still')
    const mend = sampleMend({
      areas: [sampleEllipse({ follow })],
      fill: { ...fill, params: { ...fill.params, ...params } },
    })
    return planFrame(documentOf([mend], tracks, plate), 1020).placements[0]!.still
  }
  expect(showing({ shows: 'picture', still: '' })).toBeNull()
  expect(showing({ shows: 'picture', still: 'a.png', placed: 'rests' })).toEqual({
    of: 'a.png',
    corners: null,
    groundToIt: null,
  })
  const riding = showing({ shows: 'picture', still: 'a.png', placed: 'rides', on: 1010 })!
  expect(apply(riding.groundToIt!, 100, 40).x).toBeCloseTo(100 - 20, 6)
  const corners = [0, 0, 90, 0, 90, 60, 0, 60]
  expect(showing({ shows: 'frame', frame: 1005, placed: 'corners', corners })).toMatchObject({
    of: 1005,
    corners,
  })
  expect(showing({ shows: 'frame', frame: 2005, placed: 'corners', corners })).toBeNull()
  // A frame that is laid on the ground is gathered instead, like any other.
  expect(showing({ shows: 'frame', frame: 1005, placed: 'rides' })).toBeNull()
})

test('what passes near on other frames is shut for gathering with the mend’s own area; taken as it lies, that frame is open', () => {
  const mendOf = (id: string, params: Record<string, unknown>) => {
    const fill = fillOf(id)
    return sampleMend({ areas: [sampleEllipse()], fill: { ...fill, params: { ...fill.params, ...params } } })
  }
  const look = (mend: Mend) => requestsOf(mend, 1020).find(({ purpose }) => purpose === 'gather')!
  expect(look(mendOf('borrow', { compensate: 'on' })).isOpen).toBeUndefined()
  expect(look(mendOf('borrow', { compensate: 'off' })).isOpen).toBe(true)
  expect(look(mendOf('still', { frame: 1003, placed: 'rests' }))).toMatchObject({ frame: 1003, isOpen: true })
})

describe('spots on a surface', () => {
  const spot = (id: string, x: number): Area =>
    sampleEllipse({
      id,
      follow: { trackId: 's', uses: { position: true, rotation: false, scale: false, skew: false } },
      keys: [{ frame: 1001, x, y: 20, radiusXPx: 5, radiusYPx: 5, turnDeg: 0 }],
    })
  // The second one is out of sight on 1006 and 1007.
  const track: Track = {
    ...newTrack('s', 'surface', 'S', 1001, [20, 20, 60, 20]),
    frames: Array.from({ length: 12 }, (_, i) => [
      1001 + i,
      1,
      20 + i,
      20,
      1,
      60 + i,
      20,
      i === 5 || i === 6 ? 0 : 1,
    ]),
  }
  const document = documentOf(
    [sampleMend({ areas: [spot('a', 20), spot('b', 60)] })],
    new Map([['s', track]]),
    plate,
  )

  test('each goes with its place; out of sight one is not there at all, and fades before and after', () => {
    const sharesOn = (frame: number) => planFrame(document, frame).placements.map(({ covers, share }) => [covers[0]!.placed.area.id, Math.round(100 * share)]) // prettier-ignore
    expect(sharesOn(1002)).toEqual([['a', 100], ['b', 100]]) // prettier-ignore
    expect(sharesOn(1004)).toEqual([['a', 100], ['b', 67]]) // prettier-ignore
    expect(sharesOn(1005)).toEqual([['a', 100], ['b', 33]]) // prettier-ignore
    expect(sharesOn(1006)).toEqual([['a', 100]])
    expect(sharesOn(1009)).toEqual([['a', 100], ['b', 67]]) // prettier-ignore
    expect(planFrame(document, 1003).placements[1]!.covers[0]!.placed.middle.x).toBeCloseTo(62, 1)
  })

  test('a mend that hides nothing is no trouble to those on it; what it holds out still is', () => {
    const holdout: Area = { ...spot('h', 24), follow: null, role: 'holdout' }
    const wide = sampleEllipse({
      keys: [{ frame: 1001, x: 40, y: 20, radiusXPx: 60, radiusYPx: 60, turnDeg: 0 }],
    })
    const skin = sampleMend({ id: 'skin', areas: [{ ...wide, id: 'f' }, holdout], fill: fillOf('even-skin') })
    const small = sampleMend({
      id: 'small',
      areas: [{ ...spot('a', 20), follow: null }],
      fill: fillOf('heal'),
    })
    const others = planFrame(documentOf([skin, small], NO_TRACKS, plate), 1001).placements.find(({ mend }) => mend.id === 'small')!.others // prettier-ignore
    expect(others.map(({ placed }) => placed.area.id)).toEqual(['h'])
  })
})
