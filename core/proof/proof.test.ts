/** What a proof says: numbers of mends, snags that only all frames tell, charts, what to try, the table. */
import Papa from 'papaparse'
import { sampleEllipse, sampleMend, samplePath, sampleRecord } from '../../tests/fixtures/sampleMend'
import type { MendMeasure } from '../measure/mendMeasure'
import type { OverTime } from '../measure/overTime'
import type { SnagReason } from '../snags/snags'
import { DEFAULT_BRUSH, strokeArea } from '../document/brush'
import { PROOF_MEASURE_IDS, proofOfFrame, snagsOfProofs, worstOf, worstPlaces } from './frameProof'
import { newNoteSchema } from './notes'
import { overTimeOfMends } from './overTimeOfMends'
import { CSV_COLUMNS, proofCsv } from './proofCsv'
import { thinSeries } from './thinSeries'
import { triesFor } from './tries'

const CALM: MendMeasure = {
  mendId: 'm', x: 40, y: 30, line: null, rimStep: 1.1, grainRatio: 0.9, cells: { inside: [0.4, 0.5], around: [0.4, 0.5] },
  faults: null, repeated: null, gathered: null, shade: null, mark: null,
} // prettier-ignore
const OVER: OverTime = { inside: { e: 1, x: 40, y: 30 }, beside: { e: 1, x: 50, y: 30 }, usualE: 0.6, sharpness: 1, grain: 1 } // prettier-ignore
const proofAt = (frame: number, measures: readonly MendMeasure[] = [CALM], over: OverTime = OVER) =>
  proofOfFrame(frame, { measures, before: [CALM], overTime: new Map([['m', over]]) })

test('of all areas of a mend the worst of each number is told; what cannot be told is not', () => {
  const gathered = {
    seenShare: 0.7,
    unseenWidePx: 3,
    ghostShare: 0,
    registrationSure: 0.9,
    frames: 12,
    weighed: null,
  }
  const [mend] = proofAt(1004, [CALM, { ...CALM, rimStep: 2, grainRatio: 1.3, gathered }]).mends
  expect(mend!.numbers).toMatchObject({ seam: 2, grain: 1.3, sure: 90, seen: 70, sharpness: 1 })
  expect(proofAt(1004, [{ ...CALM, rimStep: null, grainRatio: null, cells: null }]).mends[0]!.numbers).toMatchObject({ seam: null, flicker: null, grain: 1, sure: null, seen: null }) // prettier-ignore
})

test('what differs is told against the mend’s own other frames: beside it only where that is news', () => {
  const reasons = (overs: readonly OverTime[]) =>
    snagsOfProofs(overs.map((over, i) => proofAt(1001 + i, [CALM], over))).map(({ frame, reason }) => [
      frame,
      reason,
    ])
  const calm = Array.from({ length: 6 }, () => OVER)
  const with3 = (over: OverTime) => [...calm.slice(0, 3), over, ...calm.slice(3)]
  expect(reasons(calm)).toEqual([])
  expect(reasons(with3({ ...OVER, inside: { e: 6, x: 1, y: 1 } }))).toEqual([[1004, 'differs']])
  expect(reasons(with3({ ...OVER, inside: { e: 2.8, x: 1, y: 1 } }))).toEqual([[1004, 'differs']])
  expect(reasons(with3({ ...OVER, beside: { e: 9, x: 1, y: 1 } }))).toEqual([[1004, 'differs']])
  expect(reasons(with3({ ...OVER, sharpness: 0.5 }))).toEqual([[1004, 'soft']])
  // Something that is there all the time passes by: it is no news. Nor is what a frame before it shows as well.
  const busy = { ...OVER, beside: { e: 9, x: 1, y: 1 } }
  expect(reasons([busy, busy, busy, { ...busy, beside: { e: 15, x: 1, y: 1 } }])).toEqual([])
  // Where the surroundings differ as much, nothing is told.
  expect(reasons(with3({ ...OVER, inside: { e: 6, x: 1, y: 1 }, usualE: 4 }))).toEqual([])
})

test('a series is thinned to what a chart can show, and nothing that stands out is lost', () => {
  expect(thinSeries([1, null, 3], 1001, 10)).toEqual([{ frame: 1001, min: 1, max: 1 }, { frame: 1003, min: 3, max: 3 }]) // prettier-ignore
  const values = Array.from({ length: 1000 }, (_, i) => (i === 637 ? 9 : 1))
  const points = thinSeries(values, 1001, 300)
  expect(points.length).toBeLessThanOrEqual(300)
  expect(points.filter(({ max }) => max === 9)).toEqual([{ frame: 1001 + 636, min: 1, max: 9 }])
  expect(() => thinSeries([], 1, 0)).toThrow(RangeError)
})

test('what is tried is an edit each, in words; what would change nothing is not offered', () => {
  const key = { frame: 1001, x: 50, y: 50, radiusXPx: 10, radiusYPx: 10, turnDeg: 0 }
  const mend = { ...sampleRecord(), ...sampleMend({ areas: [sampleEllipse({ keys: [key] })] }) }
  const words = (reason: SnagReason, frame = 1010) =>
    triesFor({ reason, frame }, mend, new Map()).map((one) => one.words)
  expect(words('differs')).toEqual(['Widen by 1 px', 'Key here', 'Fill: Clean plate'])
  expect(words('differs', 1001)).not.toContain('Key here')
  expect(words('grain-smooth')).toEqual(['More grain'])
  expect(words('shade-contrast')).toEqual([])
  const [widen] = triesFor({ reason: 'rim-shows', frame: 1010 }, mend, new Map()).filter((one) => one.words.startsWith('Widen')) // prettier-ignore
  expect(widen).toMatchObject({ kind: 'edit', edit: { label: expect.stringContaining('Grow') } })
  const wire = { ...mend, areas: [samplePath()] }
  expect(triesFor({ reason: 'line-shows', frame: 1010 }, wire, new Map()).map(({ kind }) => kind)).toContain(
    'cling',
  )
})

test('a brush is widened by its strokes on the frame: their edges are their own, and no softer edge is offered', () => {
  const span = { firstFrame: 1001, lastFrame: 1020 }
  const strokes = [1004, 1010].map(
    (frame) =>
    strokeArea(`s${frame}`, [{ x: 5, y: 5, pressure: 1 }, { x: 40, y: 5, pressure: 1 }], { ...DEFAULT_BRUSH, sizePx: 20, lives: 'frame' }, frame, span), // prettier-ignore
  )
  const brush = { ...sampleRecord(), ...sampleMend({ areas: strokes }), kind: 'brush' as const }
  const tries = triesFor({ reason: 'rim-shows', frame: 1010 }, brush, new Map())
  expect(tries.map(({ words }) => words)).toEqual(['Widen by 1 px'])
  const [one] = tries
  if (one?.kind !== 'edit') throw new Error('it is an edit')
  const widths = (one.edit.changes[0]!.after!.areas as typeof strokes).map(({ keys }) => keys[0]!.points[0]!.widthPx) // prettier-ignore
  expect(widths[1]! - strokes[1]!.keys[0]!.points[0]!.widthPx).toBeCloseTo(2, 6)
  expect(widths[0]).toBe(strokes[0]!.keys[0]!.points[0]!.widthPx)
})

test('of each mend the worst place of some frames on end, the most visible first', () => {
  const at = (mendId: string, frame: number, weight: number) => ({ mendId, frame, weight, reason: 'differs' as const, x: 0, y: 0, words: '' }) // prettier-ignore
  const worst = worstPlaces([at('a', 1000, 1), at('a', 1003, 3), at('b', 1003, 2), at('a', 1009, 1.5)], 3)
  expect(worst.map(({ mendId, frame }) => [mendId, frame])).toEqual([['a', 1003], ['b', 1003], ['a', 1009]]) // prettier-ignore
  expect(worstOf('grain', [0.9, null, 1.2, 0.5, 1.6])).toBe(0.5)
  expect(worstOf('seen', [90, 40, null])).toBe(40)
  expect(worstOf('seam', [null])).toBeNull()
})

test('the table has a line for every mend on every frame, and reads back as it was', () => {
  const proofs = [proofAt(1001), { frame: 1002, mends: [], snags: [] }]
  const digests = [1001, 1002].map((frame) => ({ frame, plateSha256: 'a', resultSha256: 'b', changedOutside: frame - 1001 })) // prettier-ignore
  const csv = proofCsv(proofs, digests, () => '=Wire, "left"')
  const { data, meta } = Papa.parse<Record<string, string>>(csv, { header: true })
  expect(meta.fields).toEqual([...CSV_COLUMNS])
  expect(data.map(({ frame, changed_outside: changed }) => [frame, changed])).toEqual([['1001', '0'], ['1002', '1']]) // prettier-ignore
  for (const measure of PROOF_MEASURE_IDS) expect(data[0]![measure]).toBe(String(proofs[0]!.mends[0]!.numbers[measure] ?? '')) // prettier-ignore
  // A spreadsheet must not take a name for a formula.
  expect(data[0]!['mend']).toBe(`'=Wire, "left"`)
})

test('mends that only correct what is there are not told by other frames', () => {
  const coarse = { cols: 10, rows: 10, values: new Uint16Array(400) }
  const frame = { coarse, patches: [{ rect: { col: 0, row: 0, width: 30, height: 30 }, mendedRuns: Int32Array.of(0, 900) }], measures: [CALM] } // prettier-ignore
  expect(overTimeOfMends(frame, [], [], () => false).size).toBe(0)
})

test('a note says something, by somebody, of frames in order', () => {
  const note = { intent: 'note', versionId: null, answerTo: null, firstFrame: 5, lastFrame: 7, x: null, y: null, words: ' Look ', author: 'Ines' } // prettier-ignore
  expect(newNoteSchema.parse(note).words).toBe('Look')
  for (const wrong of [{ words: '  ' }, { author: '' }, { lastFrame: 4 }, { x: -1 }])
    expect(newNoteSchema.safeParse({ ...note, ...wrong }).success).toBe(false)
})
