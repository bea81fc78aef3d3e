/** Faces found on a photograph of a person that is moved by known motions. Tuned on nothing of it: the outlines' reach is that of `core/face/features.ts`. */
import { BARE, FIRST_FRAME, motionAt, portraitClip, readPortrait, SHARP } from '../../tests/fixtures/portrait'
import { drawnArea } from '../../core/document/areaCommands'
import { applyEdit } from '../../core/document/edits'
import {
  faceHoldouts,
  facesIn,
  holdOutFaces,
  holdOutFound,
  holdOutNoFaces,
} from '../../core/document/faceFound'
import { geometryAt, geometryFrom, keyedFrom, numbersOf, polygonOf } from '../../core/document/keyedGeometry'
import { outlineThrough } from '../../core/document/keys'
import type { MendRecord } from '../../core/document/mend'
import { findFaces } from '../../core/evaluate/findFaces'
import { detectFaces } from '../../core/face/detectFaces'
import type { FoundFace } from '../../core/face/followFaces'
import { insidePolygon } from '../../core/geometry/polygon'
import { apply, invert } from '../../core/geometry/transform'
import { faceFilesIn } from '../../server/faceFiles.server'
import { documentOf } from '../../tests/fixtures/sampleDocument'
import { NEVER_STOPS, sourceOfSamples } from '../../tests/fixtures/sampleSource'
import { createSamples } from '../../core/image/samples'
import { fillOf, sampleRecord } from '../../tests/fixtures/sampleMend'
import { join } from 'node:path'
import { faceModel } from './faceModel'

const FRAMES = 10
const LAST_FRAME = FIRST_FRAME + FRAMES - 1
/** The skin is outlined in the middle of the shot. */
const DRAWN_ON = 1005
const model = faceModel(faceFilesIn(join(import.meta.dirname, '../../public/faces')))

/** An outline round the face as it lies on a frame, drawn by hand. */
const outlined = (frame: number): MendRecord => {
  const drawn = [178, 92, 200, 76, 245, 80, 268, 100, 264, 140, 240, 170, 215, 174, 190, 150].map(Number)
  const places = Array.from({ length: drawn.length / 2 }, (_, i) =>
    apply(motionAt(frame), drawn[2 * i]!, drawn[2 * i + 1]!),
  )
  const points = outlineThrough(places, 'smooth')
  const area = drawnArea('face', { shape: 'outline', points }, frame)
  return sampleRecord({ id: 'skin', kind: 'skin', name: 'Skin 1', areas: [area], fill: fillOf('even-skin') })
}

const mend = outlined(DRAWN_ON)
const plate = { firstFrame: FIRST_FRAME, lastFrame: LAST_FRAME, width: 512, height: 512 }
let faces: FoundFace[]
beforeAll(async () => {
  const document = documentOf([mend], new Map(), plate)
  faces = (await findFaces(document, 'skin', DRAWN_ON, portraitClip(), await model, NEVER_STOPS))!
})

let ids = 0
const nextId = () => `id-${ids++}`
const stateOf = () => {
  const before = { records: new Map([[mend.id, mend]]), tracks: new Map() }
  return applyEdit(before, holdOutFound(before, mend, faces, DRAWN_ON, nextId))
}
/** Polygons of what is held out on a frame. */
const heldOn = (frame: number, { records, tracks } = stateOf()) =>
  faceHoldouts(records.get(mend.id)!, tracks).map((area) => {
    const geometry = geometryAt(area, tracks, frame)
    return geometry.shape === 'path' ? [] : polygonOf(geometry)
  })

test('the face is found on every frame, and nowhere else', () => {
  expect(faces).toHaveLength(1)
  expect(faces[0]!.map(({ frame }) => frame)).toEqual(
    Array.from({ length: FRAMES }, (_, k) => FIRST_FRAME + k),
  )
  for (const { sure } of faces[0]!) expect(sure).toBeGreaterThan(0.9)
})

test.each(Object.entries(SHARP))('%s: at least 99 %% is held out on every frame', (_part, region) => {
  const state = stateOf()
  for (let frame = FIRST_FRAME; frame <= LAST_FRAME; frame++) {
    const polygons = heldOn(frame, state)
    let [inside, held] = [0, 0]
    for (let y = 80; y < 160; y += 0.5)
      for (let x = 185; x < 270; x += 0.5) {
        if (!insidePolygon(region, x, y)) continue
        inside++
        const at = apply(motionAt(frame), x, y)
        if (polygons.some((polygon) => insidePolygon(polygon, at.x, at.y))) held++
      }
    expect(held / inside).toBeGreaterThanOrEqual(0.99)
  }
})

test('cheeks, brow and chin are not held out', () => {
  const state = stateOf()
  for (let frame = FIRST_FRAME; frame <= LAST_FRAME; frame++) {
    const polygons = heldOn(frame, state)
    for (const [x, y, radius] of BARE)
      for (const [dx, dy] of [
        [0, 0],
        [radius, 0],
        [-radius, 0],
        [0, radius],
        [0, -radius],
      ] as const) {
        // prettier-ignore
        const at = apply(motionAt(frame), x + dx, y + dy)
        expect([
          frame,
          x,
          y,
          dx,
          dy,
          polygons.findIndex((polygon) => insidePolygon(polygon, at.x, at.y)),
        ]).toEqual([frame, x, y, dx, dy, -1])
      }
  }
})

test('what is held out trembles by half a px at most', () => {
  const state = stateOf()
  const back = Array.from({ length: FRAMES }, (_, k) => {
    const toPhotograph = invert(motionAt(FIRST_FRAME + k))!
    return faceHoldouts(state.records.get(mend.id)!, state.tracks).map((area) => {
      const geometry = geometryAt(area, state.tracks, FIRST_FRAME + k)
      if (geometry.shape !== 'outline') throw new Error('holdouts of faces are outlines')
      return geometry.points.map(({ x, y }) => apply(toPhotograph, x, y))
    })
  })
  // From one frame to the next: what the eye sees swim.
  let [sum, count] = [0, 0]
  for (let k = 1; k < FRAMES; k++)
    back[k]!.forEach((outline, i) =>
      outline.forEach(({ x, y }, j) => {
        const last = back[k - 1]![i]![j]!
        sum += (x - last.x) ** 2 + (y - last.y) ** 2
        count++
      }),
    )
  const jitter = Math.sqrt(sum / count)
  expect(jitter).toBeLessThan(0.5)
})

test('the outline of the skin goes with the face', () => {
  const { records, tracks } = stateOf()
  const [area] = records.get(mend.id)!.areas
  if (area?.shape !== 'outline') throw new Error('drawn as an outline')
  expect(tracks.get(area.follow!.trackId)!.kind).toBe('face')
  for (const frame of [FIRST_FRAME, LAST_FRAME]) {
    const here = geometryAt(area, tracks, frame)
    const expected = numbersOf(geometryAt(outlined(frame).areas[0] as typeof area, new Map(), frame))
    numbersOf(here).forEach((value, i) => i % 6 < 2 && expect(Math.abs(value - expected[i]!)).toBeLessThan(2))
  }
})

test('what is drawn on any frame is found again there', () => {
  const { records, tracks } = stateOf()
  for (const area of records.get(mend.id)!.areas) {
    if (area.shape !== 'outline') throw new Error('all of them are outlines')
    const drawn = numbersOf(geometryAt(area, tracks, LAST_FRAME)).map((value, i) => value + (i % 5))
    const keyed = keyedFrom(area, tracks, LAST_FRAME, geometryFrom('outline', drawn))
    const placed = {
      ...area,
      keys: [{ ...area.keys[0]!, points: (keyed as typeof keyed & { shape: 'outline' }).points }],
    }
    numbersOf(geometryAt(placed, tracks, LAST_FRAME)).forEach((value, i) =>
      expect(value).toBeCloseTo(drawn[i]!, 1),
    )
  }
})

test('held out no more, and again, each by one step', () => {
  const state = stateOf()
  const without = applyEdit(state, holdOutNoFaces(state.records.get(mend.id)!, state.tracks))
  expect(heldOn(DRAWN_ON, without)).toHaveLength(0)
  const tracks = [...without.tracks.values()]
  const again = applyEdit(
    without,
    holdOutFaces(without, without.records.get(mend.id)!, tracks, DRAWN_ON, nextId),
  )
  expect(heldOn(DRAWN_ON, again)).toEqual(heldOn(DRAWN_ON, state))
})

test('a face that something passes over is found again where it has gone, and is not another one', async () => {
  const clip = portraitClip()
  const [FROM, TO] = [FIRST_FRAME + 3, FIRST_FRAME + 5]
  const covered: typeof clip = {
    ...clip,
    readRect: async (frame, rect) => {
      const read = await clip.readRect(frame, rect)
      return frame < FROM || frame > TO ? read : { ...read, data: new Uint8Array(read.data.length).fill(90) }
    },
  }
  const document = documentOf([outlined(FIRST_FRAME)], new Map(), plate)
  const [found] = (await findFaces(document, 'skin', FIRST_FRAME, covered, await model, NEVER_STOPS))!
  const seen = Array.from({ length: FRAMES }, (_, k) => FIRST_FRAME + k).filter((at) => at < FROM || at > TO)
  expect(found!.map(({ frame }) => frame)).toEqual(seen)
  const [last, known] = [found!.at(-1)!, faces[0]!.at(-1)!]
  last.values.forEach((value, i) => expect(Math.abs(value - known.values[i]!)).toBeLessThan(1))
})

test('found again, a face is the one that was found before; areas stay where they are there', () => {
  const state = stateOf()
  const [now, again] = [state.records.get(mend.id)!, FIRST_FRAME + 7]
  const next = applyEdit(state, holdOutFound(state, now, faces, again, nextId))
  expect([...next.tracks.values()].map(({ name }) => name)).toEqual(['Face 1'])
  const after = next.records.get(mend.id)!
  expect(after.areas).toHaveLength(now.areas.length)
  const placeOf = ({ records, tracks }: typeof state) => {
    const [area] = records.get(mend.id)!.areas
    return area?.shape === 'outline' ? numbersOf(geometryAt(area, tracks, again)) : []
  }
  placeOf(next).forEach((value, i) => expect(value).toBeCloseTo(placeOf(state)[i]!, 3))
  // Another mend goes with the face too: then it is left to that one.
  const others = { ...state, records: new Map(state.records).set('other', { ...now, id: 'other' }) }
  const beside = applyEdit(others, holdOutFound(others, now, faces, again, nextId))
  expect([...beside.tracks.values()].map(({ name }) => name)).toEqual(['Face 1', 'Face 2'])
})

test('of the faces of a shot those are a mend’s that lie in it', () => {
  const { records, tracks } = stateOf()
  const skin = records.get(mend.id)!
  expect(facesIn(skin, tracks, LAST_FRAME)).toHaveLength(1)
  const elsewhere = { ...skin, areas: [drawnArea('e', { shape: 'ellipse', x: 60, y: 400, radiusXPx: 40, radiusYPx: 40, turnDeg: 0 }, FIRST_FRAME)] } // prettier-ignore
  expect(facesIn(elsewhere, tracks, LAST_FRAME)).toEqual([])
})

test('a picture without colours has none either', async () => {
  const { width, height } = readPortrait()
  const grey = sourceOfSamples(createSamples(width, height, 1, 8))
  expect(await findFaces(documentOf([mend], new Map(), plate), 'skin', DRAWN_ON, grey, await model, NEVER_STOPS)).toEqual([]) // prettier-ignore
})

test('no face where there is none', async () => {
  const { width, height } = readPortrait()
  const document = documentOf([mend], new Map(), plate)
  const grey = sourceOfSamples({ ...createSamples(width, height, 3, 8), data: new Uint8Array(3 * width * height).fill(128) }) // prettier-ignore
  expect(await findFaces(document, 'skin', DRAWN_ON, grey, await model, NEVER_STOPS)).toEqual([])
  const [x, y, sidePx] = [400, 400, 200] // the suit
  expect(detectFaces(readPortrait(), { x, y, sidePx, right: { x: 1, y: 0 } }, await model)).toEqual([])
})
