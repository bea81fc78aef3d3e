import { DOCUMENT_FORMAT, parseDocument } from './document'
import { sourceSchema } from './source'
import { upgradeEdit, upgradeMend } from './upgrade'
import { mendRecordSchema, mendSchema } from './mend'

/** As version 1 wrote it: one path, one feather. */
const FIRST = {
  id: 'w1',
  kind: 'wire',
  name: 'Wire 1',
  isOn: true,
  area: { shape: 'path', travel: 'smooth', keys: [{ frame: 1001, points: [{ x: 1, y: 2, widthPx: 6 }, { x: 3, y: 40, widthPx: 6 }] }] }, // prettier-ignore
  fill: { methodId: 'across', methodVersion: 1, params: { direction: 'square', angleDeg: 0, lean: 'auto', leanDeg: 0, reachPx: 6, meet: 1, echo: 0.5 } }, // prettier-ignore
  finish: { featherPx: 1.5, growPx: 0.5, strength: 1, grain: 1 },
  span: { firstFrame: 1001, lastFrame: 1010 },
}
/** As version 2 wrote it: areas, and no source yet. */
const SECOND = {
  ...Object.fromEntries(Object.entries(FIRST).filter(([key]) => key !== 'area')),
  areas: [{ ...FIRST.area, id: 'a1', role: 'cover', follow: null }],
  finish: { featherOutPx: 1.5, featherInPx: 0, growPx: 0.5, strength: 1, grain: 1 },
}

/** As version 3 wrote a stored record: `travel` of areas and source, `order` in the stack. */
const THIRD = {
  ...SECOND,
  source: { keys: [{ frame: 1001, dx: 4, dy: 0, turnDeg: 0, scale: 1 }], travel: 'linear', follow: null },
  finish: { ...SECOND.finish, agree: 1, exposureStops: 0, saturation: 1, grainFrom: 'made' },
  span: { ...FIRST.span, rampInFrames: 0, rampOutFrames: 0 },
}

test('records of version 3 get the words of the field', () => {
  const now = upgradeMend({ ...THIRD, order: 2 })
  expect(now).toMatchObject({
    stackIndex: 2,
    areas: [{ interpolation: 'smooth' }],
    source: { interpolation: 'linear' },
  })
  expect(mendRecordSchema.safeParse(now).success).toBe(true)
  expect(upgradeMend(now)).toEqual(now)
})

test('mends of versions 1 and 2 become the same mend of today, and one of today stays as it is', () => {
  const now = upgradeMend(SECOND)
  expect(upgradeMend(FIRST)).toEqual(now)
  expect(upgradeMend(now)).toEqual(now)
  expect(mendSchema.parse(now)).toMatchObject({
    source: null,
    finish: { featherOutPx: 1.5, agree: 1, exposureStops: 0, saturation: 1, grainFrom: 'made' },
    span: { firstFrame: 1001, lastFrame: 1010, rampInFrames: 0, rampOutFrames: 0 },
  })
})

test('edits of the history are brought forward on both sides; what is no mend is left for the schema to refuse', () => {
  const edit = { words: 'Draw Wire 1', changes: [{ kind: 'mend', before: null, after: FIRST }] }
  expect(upgradeEdit(edit)).toMatchObject({
    words: 'Draw Wire 1',
    changes: [{ before: null, after: { source: null, areas: [{ id: 'a1' }] } }],
  })
  for (const odd of [null, 7, 'mend', [], { areas: 3 }]) expect(() => upgradeMend(odd)).not.toThrow()
  expect(mendSchema.safeParse(upgradeMend({ areas: 3 })).success).toBe(false)
})

test('whole documents of all versions are read; a version to come is refused by number', () => {
  const plate = {
    name: 'p',
    width: 64,
    height: 48,
    firstFrame: 1001,
    frameCount: 10,
    frameRate: { num: 24, den: 1 },
  }
  for (const [version, mend] of [
    [1, FIRST],
    [2, SECOND],
    [3, THIRD],
  ] as const) {
    // prettier-ignore
    const parsed = parseDocument(JSON.stringify({ format: DOCUMENT_FORMAT, version, plate, mends: [mend], ...(version > 1 ? { tracks: [] } : {}) }))
    if (!parsed.ok) throw new Error(parsed.detail)
    expect(parsed.document).toMatchObject({ version: 4, tracks: [], mends: [{ id: 'w1' }] })
  }
  const later = parseDocument(
    JSON.stringify({ format: DOCUMENT_FORMAT, version: 5, plate, mends: [], tracks: [] }),
  )
  expect(later).toMatchObject({ ok: false, detail: expect.stringMatching(/5/) })
})

test('sources: keys rise, one for each frame; sizes and shifts have limits', () => {
  const key = (frame: number, over = {}) => ({ frame, dx: 10, dy: -4, turnDeg: 0, scale: 1, ...over })
  const source = (keys: object[]) => sourceSchema.safeParse({ keys, interpolation: 'smooth', follow: null })
  expect(source([key(1001), key(1007)]).success).toBe(true)
  expect(source([]).success).toBe(false)
  expect(source([key(1007), key(1001)]).error?.issues[0]).toMatchObject({ path: ['keys', 1, 'frame'] })
  expect(source([key(1001), key(1001)]).success).toBe(false)
  for (const odd of [{ scale: 0 }, { scale: 11 }, { dx: Infinity }, { turnDeg: Number.NaN }, { dz: 1 }]) expect(source([key(1001, odd)]).success).toBe(false) // prettier-ignore
})
