/** Proofs, notes and reviews in the database: what is stored is what pages and reports say. */
import { randomUUID } from 'node:crypto'
import Papa from 'papaparse'
import { PROOF_MEASURE_IDS, type FrameProof } from '../../core/proof/frameProof'
import { proofCsv } from '../../core/proof/proofCsv'
import { OWN_PRODUCTION_ID } from '../../server/db/migrate.server'
import { plates, proofFrames, proofs, shots, versions } from '../../server/db/schema'
import {
  addNote,
  countOpenNotes,
  lastReviews,
  listNotes,
  resolveNote,
  review,
  reviewsOf,
} from '../../server/notes.server'
import {
  askForProof,
  cancelProof,
  CHART_POINTS,
  loadDigests,
  loadFrameProofs,
  loadProof,
} from '../../server/proofs.server'
import { startTestServer, type TestServer } from './testServer'

const COUNT = 1000
const MENDS = Array.from({ length: 20 }, (_, i) => `mend-${i}`)
const versionId = randomUUID()

let server: TestServer
beforeAll(async () => {
  server = await startTestServer()
  const { db } = server.context.database
  await db.insert(shots).values({ id: 's', productionId: OWN_PRODUCTION_ID, name: 's' })
  const shape = { width: 4, height: 4, channels: 3, bitDepth: 8, rateNum: 24, rateDen: 1, firstFrame: 1001, frameCount: COUNT } // prettier-ignore
  await db.insert(plates).values({ id: randomUUID(), shotId: 's', sourceName: 'made', ...shape })
  const document = { format: 'fillagrant-mends', version: 4, mends: [], tracks: [] } as never
  await db.insert(versions).values({ id: versionId, shotId: 's', number: 3, format: 'ffv1', firstFrame: 1001, lastFrame: 2000, document, state: 'done' }) // prettier-ignore
})
afterAll(() => server.close())

const numbers = (frame: number, mend: number) =>
  Object.fromEntries(PROOF_MEASURE_IDS.map((measure, i) => [measure, i === 6 ? null : (frame % 7) + mend / 100 + i])) as FrameProof['mends'][number]['numbers'] // prettier-ignore

async function storeProof(): Promise<void> {
  const { db } = server.context.database
  const id = randomUUID()
  await db.insert(proofs).values({ id, shotId: 's', versionId, state: 'done', framesTotal: COUNT, framesDone: COUNT }) // prettier-ignore
  const rows = Array.from({ length: COUNT }, (_, i) => {
    const frame = 1001 + i
    const snags = frame === 1500 ? [{ mendId: 'mend-3', frame, reason: 'flicker' as const, x: 1, y: 2, words: 'It flickers.', weight: 2 }] : [] // prettier-ignore
    const proof = { frame, mends: MENDS.map((mendId, mend) => ({ mendId, numbers: numbers(frame, mend), overTime: null })), snags } // prettier-ignore
    return { proofId: id, frame, name: 'n', plateSha256: 'p', resultSha256: 'r', changedOutside: frame === 1700 ? 2 : 0, isAsRendered: frame !== 1700, proof } // prettier-ignore
  })
  await db.insert(proofFrames).values(rows)
}

test('of a thousand frames with twenty mends the page has charts that fit, snags, and what has changed outside', async () => {
  await storeProof()
  const { db } = server.context.database
  const proof = await loadProof(db, 's', versionId, null)
  expect(proof).toMatchObject({
    state: 'done',
    measured: COUNT,
    changedOutside: 2,
    changedFrames: [{ frame: 1700, count: 2 }],
    notAsRendered: [1700],
  })
  expect(proof.snags.map(({ frame, mendId }) => [frame, mendId])).toEqual([[1500, 'mend-3']])
  for (const { points } of proof.charts) expect(points.length).toBeLessThanOrEqual(CHART_POINTS)
  // Of all mends the worst, whichever way that is; of one its own.
  const seamOf = ({ charts }: typeof proof) => charts.find(({ measure }) => measure === 'seam')!.points[0]
  const lastOfFirstPoint = 1000 + Math.ceil(COUNT / CHART_POINTS)
  expect(seamOf(proof)!.max).toBeCloseTo((lastOfFirstPoint % 7) + 0.19, 6)
  const one = await loadProof(db, 's', versionId, 'mend-4')
  expect(seamOf(one)!.min).toBeCloseTo(0.04, 6)
  expect(one.snags).toEqual([])
  expect((await loadProof(db, 's', null, null)).state).toBe('none')
})

test('the table of the report has what is in the database, number by number', async () => {
  const { db } = server.context.database
  const stored = await loadFrameProofs(db, 's', versionId)
  const { data } = Papa.parse<Record<string, string>>(proofCsv(stored, await loadDigests(db, 's', versionId), (id) => id), { header: true }) // prettier-ignore
  expect(data).toHaveLength(COUNT * MENDS.length)
  for (const [i, line] of data.entries()) {
    const { frame, mends } = stored[Math.floor(i / MENDS.length)]!
    const { mendId, numbers: own } = mends[i % MENDS.length]!
    const said = PROOF_MEASURE_IDS.map((measure) => (line[measure] === '' ? null : Number(line[measure])))
    if (
      Number(line['frame']) !== frame ||
      line['mend_id'] !== mendId ||
      JSON.stringify(said) !== JSON.stringify(PROOF_MEASURE_IDS.map((measure) => own[measure]))
    )
      // prettier-ignore
      throw new Error(`line ${i} says otherwise`)
  }
})

test('asked twice it is one proof; called off it can be asked for again; another shot’s version is none', async () => {
  const { db } = server.context.database
  expect(await askForProof(db, 's', null)).toBe(true)
  expect(await askForProof(db, 's', null)).toBe(true)
  expect(await db.$count(proofs)).toBe(2)
  await cancelProof(db, 's', null)
  expect((await loadProof(db, 's', null, null)).state).toBe('cancelled')
  expect(await askForProof(db, 's', null)).toBe(true)
  expect((await loadProof(db, 's', null, null)).state).toBe('waiting')
  expect(await askForProof(db, 's', randomUUID())).toBe(false)
  expect(await askForProof(db, 'none', null)).toBe(false)
})

test('notes are kept, answered, resolved and counted; what does not fit is refused in words', async () => {
  const { db } = server.context.database
  const note = { intent: 'note', versionId, answerTo: null, firstFrame: 1001, lastFrame: 1003, x: 1.5, y: 2, words: 'Look.', author: 'Ines' } as const // prettier-ignore
  expect(await addNote(db, 's', note)).toMatchObject({ ok: true })
  expect(await addNote(db, 's', { ...note, lastFrame: 9000 })).toMatchObject({ ok: false, message: expect.stringMatching(/1001 to 2000/) }) // prettier-ignore
  expect(await addNote(db, 's', { ...note, versionId: randomUUID() })).toMatchObject({ ok: false })
  expect(await addNote(db, 's', { ...note, answerTo: randomUUID() })).toMatchObject({ ok: false })
  const [kept] = await listNotes(db, 's')
  expect(kept).toMatchObject({ versionNumber: 3, x: 1.5, author: 'Ines', resolvedBy: null })
  expect(await addNote(db, 's', { ...note, answerTo: kept!.id, words: 'Seen.' })).toMatchObject({ ok: true })
  expect((await countOpenNotes(db)).get('s')).toBe(1)
  expect(await resolveNote(db, 's', { intent: 'resolve', noteId: kept!.id, isResolved: true, author: 'Ole' })).toMatchObject({ ok: true }) // prettier-ignore
  expect((await listNotes(db, 's'))[0]!.resolvedBy).toBe('Ole')
  expect((await countOpenNotes(db)).get('s')).toBeUndefined()
})

test('a version is decided on again and again; the last one holds, the others stay', async () => {
  const { db } = server.context.database
  const order = { intent: 'review', versionId, author: 'Ines' } as const
  expect(await review(db, 's', { ...order, state: 'sent-back' })).toMatchObject({ ok: true })
  expect(await review(db, 's', { ...order, state: 'approved', author: 'Ole' })).toMatchObject({ ok: true })
  expect(await review(db, 'other', { ...order, state: 'approved' })).toMatchObject({ ok: false })
  const [last, before] = (await reviewsOf(db, [versionId])).get(versionId)!
  expect([last, before].map((one) => [one!.state, one!.author])).toEqual([['approved', 'Ole'], ['sent-back', 'Ines']]) // prettier-ignore
  expect((await lastReviews(db)).get('s')).toEqual({ number: 3, state: 'approved' })
})
