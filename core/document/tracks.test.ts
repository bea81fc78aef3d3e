import { movingWall, turnedAbout } from '../../tests/fixtures/movingWall'
import { apply, similarity, translationBy } from '../geometry/transform'
import { runTrack } from '../motion/runTrack'
import { DEFAULT_TRACK_SETTINGS } from '../motion/settings'
import {
  absorb,
  carried,
  framesFrom,
  newTrack,
  spreadPointsAt,
  trackRequest,
  withoutPoints,
  withoutRowsBeyond,
  withPlaceSet,
} from './follow'
import { samplePath, sampleRecord } from '../../tests/fixtures/sampleMend'
import { findSnags, snagsOfMeasures } from '../snags/snags'
import { areaToSvg } from './svg'
import {
  parseFile,
  pointsFileSchema,
  serialiseTracks,
  tracksFileSchema,
  tracksFromCsv,
  tracksToCsv,
} from './trackFiles'
import {
  trackMotionAt,
  trackSchema,
  trackSureAt,
  trackValuesAt,
  withRows,
  type Track,
  type TrackRow,
} from './tracks'
import { upgradeDocument, upgradeEdit, upgradeMend } from './upgrade'
import { parseDocument } from './document'

const NO_TRACKS = new Map<string, Track>()
const rows = (...list: [frame: number, sure: number, ...numbers: number[]][]): TrackRow[] => list
const point = (frames: TrackRow[]): Track => ({ ...newTrack('t', 'point', 'Point 1', 1002, [0, 0]), frames })

test('a track rests before its first and after its last row, and runs straight over a gap', () => {
  const track = point(rows([1002, 1, 10, 20], [1003, 0.8, 12, 20], [1005, 0.9, 16, 24]))
  expect([1001, 1002, 1004, 1009].map((frame) => trackValuesAt(track, frame))).toEqual([[10, 20], [10, 20], [14, 22], [16, 24]]) // prettier-ignore
  expect([1001, 1003, 1004].map((frame) => trackSureAt(track, frame))).toEqual([0, 0.8, 0])
  expect(trackMotionAt(track, 1005)).toEqual(translationBy(6, 4))
  expect(trackMotionAt(newTrack('n', 'point', 'N', 1001, [1, 1]), 1001)).toBeNull()
})

test('new rows replace those between their ends and leave the others', () => {
  const track = point(rows([1001, 1, 1, 1], [1002, 1, 2, 2], [1003, 1, 3, 3], [1004, 1, 4, 4]))
  expect(withRows(track, rows([1002, 1, 9, 9], [1003, 1, 8, 8])).frames.map((row) => row[2])).toEqual([
    1, 9, 8, 4,
  ])
  expect(withoutRowsBeyond(track, 1002, 'forward').frames).toHaveLength(2)
  expect(withPlaceSet(track, 1003, [7.12345, 7]).frames[2]).toEqual([1003, 1, 7.123, 7])
  expect(framesFrom(1003, 'backward', { firstFrame: 1001, lastFrame: 1009 })).toEqual([1002, 1001])
  expect(framesFrom(1003, 'forward', { firstFrame: 1001, lastFrame: 1009 }, 2)).toEqual([1004, 1005])
})

test('smoothing is read, not stored: taken off, the track is what it was', () => {
  const track = point(
    Array.from({ length: 20 }, (_, i): TrackRow => [1001 + i, 1, i + (i % 2 ? 0.3 : -0.3), 5]),
  )
  const rough = (one: Track) =>
    Array.from({ length: 12 }, (_, i) => Math.abs(trackValuesAt(one, 1005 + i)![0]! - (4 + i))).reduce(
      (a, b) => a + b,
    )
  expect(rough({ ...track, smoothFrames: 4 })).toBeLessThan(0.5 * rough(track))
})

const turning = (i: number) => turnedAbout(110, 90, similarity(1 + 0.008 * i, 0.01 * i, 0.9 * i, 0.4 * i))
const going = { shouldStop: () => false }
const follow = async (track: Track, frame: number, frames: number[]) =>
  absorb(
    track,
    frame,
    await runTrack(trackRequest(track, frame, frames), movingWall({ motion: turning }), going),
  )

test.each([
  ['point', [100.4, 80.2]],
  ['pair', [80, 70, 140, 110]],
  ['planar', [70, 60, 150, 62, 148, 120, 72, 118]],
  ['spread', [70, 60, 150, 62, 148, 120, 72, 118]],
] as const)('a %s that is followed on from a later frame joins without a jump', async (kind, seed) => {
  const settings = { ...DEFAULT_TRACK_SETTINGS, model: 'similarity' as const }
  const first = await follow(newTrack('t', kind, 'T', 1, seed, settings), 1, [2, 3, 4])
  const whole = await follow(first, 4, [5, 6, 7])
  expect(trackSchema.parse(whole)).toEqual(whole)
  expect(whole.frames.map(([frame]) => frame)).toEqual([1, 2, 3, 4, 5, 6, 7])
  for (const frame of [3, 4, 5, 7]) {
    const truth = apply(turning(frame - 1), 110, 90)
    const at =
      kind === 'point' ? apply(trackMotionAt(whole, frame)!, 100.4, 80.2) : carried(whole, frame, 110, 90)
    const wanted = kind === 'point' ? apply(turning(frame - 1), 100.4, 80.2) : truth
    expect(Math.hypot(at.x - wanted.x, at.y - wanted.y)).toBeLessThan(0.2)
  }
})

test('bad points are deleted by hand, and the motion is fitted again without them', async () => {
  const track = await follow(
    newTrack('t', 'spread', 'T', 1, [70, 60, 150, 62, 148, 120, 72, 118], {
      ...DEFAULT_TRACK_SETTINGS,
      model: 'similarity',
    }),
    1,
    [2, 3],
  )
  const count = spreadPointsAt(track, 3).length
  expect(count).toBeGreaterThan(8)
  const fewer = withoutPoints(track, [0, 3])
  expect(spreadPointsAt(fewer, 3)).toHaveLength(count - 2)
  expect(spreadPointsAt(fewer, 3)[0]).toMatchObject({ x: spreadPointsAt(track, 3)[1]!.x })
  const [a, b] = [carried(track, 3, 110, 90), carried(fewer, 3, 110, 90)]
  expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeLessThan(0.1)
})

test('tracks go out and come back, as JSON and as a table', () => {
  const track: Track = {
    ...point(rows([1002, 1, 10.25, 20], [1003, 0.5, 12, 21.125])),
    name: 'Left "wing", tip',
  }
  const file = {
    format: 'fillagrant-tracks' as const,
    version: 1 as const,
    plate: { width: 100, height: 80 },
    tracks: [track],
  }
  expect(parseFile(tracksFileSchema, serialiseTracks(file))).toEqual({ ok: true, value: file })
  const csv = tracksToCsv([track])
  expect(csv.split('\r\n').slice(0, 2)).toEqual([
    'track,kind,reference,frame,sure,v1,v2',
    '"Left ""wing"", tip",point,1002,1002,1,10.25,20',
  ])
  const back = tracksFromCsv(csv, () => 't')
  expect(back).toEqual({ ok: true, value: [{ ...track, seed: [10.25, 20] }] })
})

test('files that are none are refused in words', () => {
  expect(parseFile(tracksFileSchema, '{')).toMatchObject({
    ok: false,
    detail: expect.stringMatching(/not JSON/) as string,
  })
  expect(parseFile(pointsFileSchema, '{"format":"fillagrant-points","version":1,"tracks":[]}')).toMatchObject(
    {
      ok: false,
      detail: expect.stringMatching(/tracks/) as string,
    },
  )
  expect(tracksFromCsv('a,b\n', () => 'x')).toMatchObject({
    ok: false,
    detail: expect.stringMatching(/first line/) as string,
  })
  expect(
    tracksFromCsv('track,kind,reference,frame,sure,v1,v2\nP,point,1,1,1,x,2\n', () => 'x'),
  ).toMatchObject({
    ok: false,
    detail: expect.stringMatching(/Line 2/) as string,
  })
  expect(
    tracksFromCsv('track,kind,reference,frame,sure,v1,v2\nP,swirl,1,1,1,3,2\n', () => 'x'),
  ).toMatchObject({
    ok: false,
    detail: expect.stringMatching(/kind/) as string,
  })
  const points = {
    format: 'fillagrant-points',
    version: 1,
    tracks: [{ name: 'P', kind: 'point', frame: 3, seed: [1, 2] }],
  }
  expect(parseFile(pointsFileSchema, JSON.stringify(points))).toMatchObject({
    ok: true,
    value: { tracks: [{ direction: 'both', settings: {} }] },
  })
})

const reasons = (mend: Parameters<typeof findSnags>[0], tracks = NO_TRACKS) =>
  findSnags(mend, tracks, { width: 100, height: 80 }).map(({ frame, reason }) => [frame, reason])
const uses = { position: true, rotation: true, scale: true, skew: true }
const pathAt = (x: number) => [{ x, y: 10, widthPx: 4 }, { x: x + 5, y: 60, widthPx: 4 }] // prettier-ignore

test('snags tell where a track is lost or unsure', () => {
  const track = point(rows([1001, 1, 10, 10], [1002, 1, 10, 10], [1003, 0.3, 10, 10]))
  const mend = sampleRecord({
    areas: [samplePath({ follow: { trackId: 't', uses } })],
    span: { firstFrame: 1001, lastFrame: 1005 },
  })
  expect(reasons(mend, new Map([['t', track]]))).toEqual([
    [1003, 'track-unsure'],
    [1004, 'track-lost'],
    [1005, 'track-lost'],
  ])
  expect(reasons({ ...mend, isOn: false }, new Map([['t', track]]))).toEqual([])
})

test('snags tell of jumps, of areas that leave, and of a start without a key', () => {
  const span = { firstFrame: 1001, lastFrame: 1010 }
  const jumping = sampleRecord({
    span,
    areas: [
      samplePath({
        interpolation: 'linear',
        keys: [1001, 1005, 1006, 1010].map((frame) => ({ frame, points: pathAt(frame < 1006 ? 20 : 60) })),
      }),
    ],
  })
  expect(reasons(jumping)).toEqual([[1006, 'area-jump']])
  const leaving = sampleRecord({ span, areas: [samplePath({ interpolation: 'linear', keys: [{ frame: 1001, points: pathAt(60) }, { frame: 1010, points: pathAt(150) }] })] }) // prettier-ignore
  expect(reasons(leaving)).toEqual([[1005, 'area-leaves']])
  const late = sampleRecord({ span, areas: [samplePath({ keys: [{ frame: 1004, points: pathAt(20) }, { frame: 1008, points: pathAt(21) }] })] }) // prettier-ignore
  expect(reasons(late)).toEqual([[1001, 'no-start-key']])
})

test('a line that still shows is a snag at its place', () => {
  const bare = {
    x: 1,
    y: 2,
    rimStep: null,
    grainRatio: null,
    cells: null,
    faults: null,
    repeated: null,
    gathered: null,
    shade: null,
    mark: null,
  }
  const measures = [
    { ...bare, mendId: 'a', line: { ratio: 4, x: 5, y: 6 } },
    { ...bare, mendId: 'b', line: { ratio: 1, x: 5, y: 6 } },
    { ...bare, mendId: 'c', line: null },
  ]
  expect(snagsOfMeasures(measures, 1003)).toMatchObject([
    { mendId: 'a', frame: 1003, reason: 'line-shows', x: 5, y: 6 },
  ])
})

const MEASURE = {
  mendId: 'a',
  x: 7,
  y: 8,
  line: null,
  rimStep: null,
  grainRatio: null,
  cells: null,
  faults: null,
  repeated: null,
  gathered: null,
  shade: null,
  mark: null,
}
const reasonsOf = (
  over: Partial<typeof MEASURE | Record<string, unknown>>,
  before: Parameters<typeof snagsOfMeasures>[2] = [],
) => snagsOfMeasures([{ ...MEASURE, ...over }], 1003, before).map((snag) => snag.reason)

test('each thing that finished pixels tell is a snag with its own reason, and nothing is a snag when all is well', () => {
  expect(
    reasonsOf({
      rimStep: 1.2,
      grainRatio: 1,
      faults: { outsidePicture: 0, insideOthers: 0.01 },
      repeated: 0.3,
    }),
  ).toEqual([])
  expect(reasonsOf({ faults: { outsidePicture: 0.1, insideOthers: 0.3 } })).toEqual([
    'source-outside',
    'source-covered',
  ])
  expect(reasonsOf({ rimStep: 6 })).toEqual(['rim-shows'])
  expect(reasonsOf({ rimStep: 3 })).toEqual([])
  expect(reasonsOf({ rimStep: 3, line: { ratio: 1, x: 1, y: 1 } })).toEqual(['rim-shows'])
  expect(reasonsOf({ grainRatio: 0.4 })).toEqual(['grain-smooth'])
  expect(reasonsOf({ grainRatio: 2 })).toEqual(['grain-strong'])
  expect(reasonsOf({ repeated: 0.95 })).toEqual(['repeats'])
})

test('flicker is told from the frame before, of the same area', () => {
  const cells = (inside: number, around: number) => ({
    inside: Array<number>(16).fill(inside),
    around: Array<number>(16).fill(around),
  })
  const before = [{ ...MEASURE, cells: cells(0.4, 0.4) }]
  expect(reasonsOf({ cells: cells(0.44, 0.401) }, before)).toEqual(['flicker'])
  expect(reasonsOf({ cells: cells(0.44, 0.44) }, before)).toEqual([])
  expect(reasonsOf({ cells: cells(0.44, 0.401) }, [{ ...before[0]!, mendId: 'b' }])).toEqual([])
})

test('areas go out as SVG, curves as curves', () => {
  const svg = areaToSvg(sampleRecord({ name: 'Wire <1>' }), NO_TRACKS, 1001, { width: 100, height: 80 })
  expect(svg).toContain('viewBox="0 0 100 80"')
  expect(svg).toContain('<title>Wire &lt;1&gt;, frame 1001</title>')
  expect(svg).toContain('<path d="M40 -5L60 70" fill="none" stroke="#000" stroke-width="6"/>')
  const ellipse = {
    shape: 'ellipse' as const,
    id: 'e',
    role: 'holdout' as const,
    interpolation: 'smooth' as const,
    follow: null,
    keys: [{ frame: 1, x: 10, y: 20, radiusXPx: 5, radiusYPx: 3, turnDeg: 30 }],
  }
  const box = {
    ...ellipse,
    shape: 'box' as const,
    id: 'b',
    keys: [{ frame: 1, x: 10, y: 20, widthPx: 8, heightPx: 6, turnDeg: 0, cornerPx: 1 }],
  }
  const corner = (x: number, y: number) => ({ x, y, inX: 0, inY: 0, outX: 0, outY: 0 })
  const outline = {
    ...ellipse,
    shape: 'outline' as const,
    id: 'o',
    keys: [{ frame: 1, points: [corner(0, 0), corner(9, 0), corner(9, 9)] }],
  }
  const all = areaToSvg(sampleRecord({ areas: [ellipse, box, outline] }), NO_TRACKS, 1, {
    width: 100,
    height: 80,
  })
  expect(all).toContain(
    '<g id="e" class="holdout"><ellipse cx="10" cy="20" rx="5" ry="3" transform="rotate(30 10 20)"/></g>',
  )
  expect(all).toContain('<rect x="6" y="17" width="8" height="6" rx="1" transform="rotate(0 10 20)"/>')
  expect(all).toContain('<path d="M0 0C0 0 9 0 9 0C9 0 9 9 9 9C9 9 0 0 0 0Z"/>')
})

/** A document as the first version wrote it. */
const FIRST_VERSION = {
  format: 'fillagrant-mends',
  version: 1,
  plate: {
    name: 'LM_010',
    width: 1280,
    height: 720,
    firstFrame: 1001,
    frameCount: 48,
    frameRate: { num: 24, den: 1 },
  },
  mends: [
    {
      id: 'left',
      kind: 'wire',
      name: 'Left thread',
      isOn: true,
      area: { shape: 'path', interpolation: 'smooth', keys: [{ frame: 1001, points: [{ x: 566, y: -40, widthPx: 4.4 }, { x: 529.2, y: 376, widthPx: 5.6 }] }] }, // prettier-ignore
      fill: {
        methodId: 'across',
        methodVersion: 1,
        params: {
          direction: 'square',
          angleDeg: 0,
          lean: 'auto',
          leanDeg: 0,
          reachPx: 6,
          meet: 1,
          echo: 0.5,
        },
      },
      finish: { featherPx: 1.5, growPx: 0.5, strength: 1, grain: 1 },
      span: { firstFrame: 1001, lastFrame: 1048 },
    },
  ],
}

test('a document of the first version is read, and means the same', () => {
  const result = parseDocument(JSON.stringify(FIRST_VERSION))
  if (!result.ok) throw new Error(result.detail)
  const [mend] = result.document.mends
  expect(mend).toMatchObject({
    areas: [
      { id: 'a1', role: 'cover', shape: 'path', follow: null, keys: FIRST_VERSION.mends[0]!.area.keys },
    ],
    finish: { featherOutPx: 1.5, featherInPx: 0, growPx: 0.5 },
  })
  expect(result.document).toMatchObject({ version: 4, tracks: [] })
})

test('bringing forward leaves what is of the present form alone, and what is nothing as it is', () => {
  const mend = sampleRecord()
  expect(upgradeMend(mend)).toBe(mend)
  expect(upgradeMend(null)).toBeNull()
  expect(upgradeEdit({ label: 'x', changes: [{ id: 'a', before: null, after: mend }] })).toEqual({
    label: 'x',
    changes: [{ id: 'a', before: null, after: mend }],
    tracks: [],
  })
  expect(upgradeDocument(7)).toBe(7)
  expect(upgradeEdit('x')).toBe('x')
})
