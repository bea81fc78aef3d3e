import { DEFAULT_BRUSH, strokeArea } from './brush'
import { strokesOf } from './strokeCommands'
import { copyAcross, scaleBetween, type ShotPlate } from './copyAcross'
import { editSchema } from './edits'
import { fillOf, sampleEllipse, samplePath, sampleRecord } from '../../tests/fixtures/sampleMend'
import { pointTrack } from '../../tests/fixtures/sampleTrack'
import { mendRecordSchema, type MendRecord } from './mend'
import type { Track } from './tracks'

const HERE: ShotPlate = { width: 1280, height: 720, firstFrame: 1001, lastFrame: 1048 }
const numbered = () => {
  let next = 0
  return () => `new-${next++}`
}
const copy = (
  mends: readonly MendRecord[],
  to: ShotPlate,
  present: readonly MendRecord[] = [],
  tracks: readonly Track[] = [],
) => {
  const { edit, leftOut } = copyAcross(
    mends,
    new Map(tracks.map((track) => [track.id, track])),
    HERE,
    to,
    new Map(present.map((mend) => [mend.id, mend])),
    numbered(),
  )
  const made = edit ? editSchema.parse(edit).changes.map(({ after }) => mendRecordSchema.parse(after)) : []
  return { made, leftOut }
}

test('between plates of one size and length a copy differs in its name and number only', () => {
  const mend = sampleRecord()
  const { made, leftOut } = copy([mend], HERE, [
    sampleRecord({ id: 'x', areas: [samplePath({ id: 'other' })], stackIndex: 7 }),
  ])
  expect(made).toEqual([{ ...mend, id: 'new-0', name: 'Wire 2', stackIndex: 8 }])
  expect(leftOut).toEqual([])
})

test('in a plate half as large, with other frames, all px are halved and all frames moved', () => {
  const mend = sampleRecord({
    areas: [
      samplePath({
        keys: [1005, 1030].map((frame) => ({ frame, points: [{ x: 100, y: 40, widthPx: 8 }, { x: 300, y: 600, widthPx: 12 }] })), // prettier-ignore
      }),
      sampleEllipse({ role: 'holdout' }),
    ],
    source: {
      keys: [{ frame: 1005, dx: 60, dy: -20, turnDeg: 5, scale: 1 }],
      interpolation: 'smooth',
      follow: null,
    },
    span: { firstFrame: 1005, lastFrame: 1030, rampInFrames: 2 },
  })
  const [made] = copy([mend], { width: 640, height: 360, firstFrame: 1, lastFrame: 20 }).made
  expect(made!.areas[0]).toMatchObject({
    keys: [5, 30].map((frame) => ({ frame, points: [{ x: 50, y: 20, widthPx: 4 }, { x: 150, y: 300, widthPx: 6 }] })), // prettier-ignore
  })
  // What rests is where the mend begins.
  expect(made!.areas[1]).toMatchObject({
    role: 'holdout',
    keys: [{ frame: 5, x: 25, y: 20, radiusXPx: 6, radiusYPx: 4 }],
  })
  expect(made!.source).toMatchObject({ keys: [{ frame: 5, dx: 30, dy: -10, turnDeg: 5, scale: 1 }] })
  expect(made!.span).toEqual({ firstFrame: 5, lastFrame: 20, rampInFrames: 2, rampOutFrames: 0 })
})

test('what is on all the time is on all the time; what lies beyond the other shot is left out', () => {
  const all = sampleRecord()
  const late = sampleRecord({
    id: 'late',
    name: 'Late 1',
    areas: [samplePath({ id: 'b' })],
    span: { firstFrame: 1040, lastFrame: 1048 },
  })
  const short: ShotPlate = { ...HERE, firstFrame: 2001, lastFrame: 2012 }
  const { made, leftOut } = copy([all, late], short)
  expect(made.map(({ span }) => [span.firstFrame, span.lastFrame])).toEqual([[2001, 2012]])
  expect(leftOut).toEqual(['Late 1: its frames are not in the other shot'])
  expect(copy([all], { ...HERE, lastFrame: 1200 }).made[0]!.span.lastFrame).toBe(1200)
})

test('tracks stay behind: what followed one rests as it lay when its mend began', () => {
  const track = pointTrack([[1001, 50, 40], [1010, 70, 45], [1048, 90, 60]]) // prettier-ignore
  const follow = { trackId: 't', uses: { position: true, rotation: false, scale: false, skew: false } }
  const mend = sampleRecord({
    areas: [sampleEllipse({ follow })],
    span: { firstFrame: 1010, lastFrame: 1048 },
  })
  const [made] = copy([mend], HERE, [], [track]).made
  expect(made!.areas[0]).toMatchObject({ follow: null, keys: [{ frame: 1010, x: 70, y: 45 }] })
})

test('dust that is mended there already is not covered twice; a wire with the same id gets one of its own', () => {
  const dust = sampleRecord({
    id: 'd',
    kind: 'dust',
    name: 'Dust 1',
    areas: [sampleEllipse({ id: 'mote-1' }), sampleEllipse({ id: 'mote-2' })],
    fill: fillOf('lift'),
  })
  const some = { ...dust, id: 'there', areas: [dust.areas[0]!] }
  expect(copy([dust], HERE, [some]).made[0]!.areas.map(({ id }) => id)).toEqual(['mote-2'])
  expect(copy([dust], HERE, [dust])).toEqual({
    made: [],
    leftOut: ['Dust 1: all of its places are mended there already'],
  })
  const wire = sampleRecord()
  expect(copy([wire], HERE, [wire]).made[0]!.areas[0]!.id).toMatch(/^new-/)
})

test('a matte belongs to its shot; a picture of another shape takes nothing', () => {
  const matted = sampleRecord({
    name: 'Matted 1',
    areas: [
      {
        shape: 'matte',
        id: 'm',
        role: 'cover',
        interpolation: 'linear',
        follow: null,
        pattern: 'matte:x',
        keys: [],
      },
    ],
  })
  expect(copy([matted], HERE)).toEqual({ made: [], leftOut: ['Matted 1: its matte belongs to this shot'] })
  expect(scaleBetween(HERE, { width: 1920, height: 1080 })).toBe(1.5)
  expect(scaleBetween(HERE, { width: 1280, height: 536 })).toBeNull()
  expect(() => copy([sampleRecord()], { ...HERE, height: 536 })).toThrow('1280 × 720 and 1280 × 536')
})

test('strokes keep their own frames, moved; those of frames that the other shot has not stay behind', () => {
  const points = [{ x: 100, y: 50, pressure: 1 }, { x: 160, y: 50, pressure: 1 }] // prettier-ignore
  const settings = { ...DEFAULT_BRUSH, lays: 'clone', offsetX: 40, offsetY: -20 } as const
  const stroke = (id: string, frame: number) => strokeArea(id, points, settings, frame, HERE)
  const mend = sampleRecord({ kind: 'brush', areas: [stroke('a', 1003), stroke('b', 1040)] })
  const there: ShotPlate = { width: 640, height: 360, firstFrame: 1, lastFrame: 20 }
  const [copied] = copy([mend], there).made
  const strokes = strokesOf(copied!)
  expect(strokes.map(({ id }) => id)).toEqual(['a'])
  expect(strokes[0]!.stroke.span).toMatchObject({ firstFrame: 3, lastFrame: 3 })
  expect(strokes[0]!.stroke.source!.keys[0]).toMatchObject({ dx: 20, dy: -10 })
  expect(strokes[0]!.keys[0]!.points[1]).toEqual({ x: 80, y: 25, widthPx: 20 })
})
