import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { parseDocument } from '../core/document/document'
import type { Find } from '../core/survey/finds'
import { acceptFindsOf } from './accept'
import { EXIT } from './exitCodes'

const folder = mkdtempSync(join(tmpdir(), 'cli-accept-'))
afterAll(() => rmSync(folder, { recursive: true }))

const PLATE = { width: 640, height: 360, firstFrame: 0, frameCount: 24 }
const place = { firstFrame: 0, lastFrame: 23, why: 'as told' }
const pixel = (id: string, x: number, sure: number): Find => ({
  kind: 'pixel', id, x, y: 20.5, sure, class: 'hot', widthPx: 3, heightPx: 3, ...place,
}) // prettier-ignore
const mote: Find = {
  kind: 'mote', id: 'mote-1', x: 300, y: 200, sure: 0.9, radiusXPx: 9, radiusYPx: 7, turnDeg: 0, depthStops: -0.3, ...place,
} // prettier-ignore

function written(name: string, finds: readonly Find[], plate = PLATE): string {
  const path = join(folder, name)
  const survey = { format: 'fillagrant-survey', version: 1, plate, rest: 'moves', cuts: [], finds }
  writeFileSync(path, JSON.stringify(survey))
  return path
}
const accept = (finds: string, more: { mends?: string; from?: string } = {}) =>
  acceptFindsOf({ finds, from: '0.8', rate: '', out: join(folder, 'mends.json'), ...more })
const documentIn = (path: string) => {
  const parsed = parseDocument(readFileSync(path, 'utf8'))
  if (!parsed.ok) throw new Error(parsed.detail)
  return parsed.document
}

test('sure finds become mends of the plate; what is not sure is counted', async () => {
  const finds = written('finds.json', [
    pixel('a', 100.5, 1),
    pixel('b', 200.5, 0.85),
    pixel('c', 9.5, 0.4),
    mote,
  ])
  const summary = await accept(finds)
  expect(summary).toMatchObject({ accepted: 3, alreadyMended: 0, leftOut: 1, mends: 2 })
  const { plate, mends } = documentIn(summary.out)
  expect(plate).toMatchObject({ ...PLATE, name: 'finds', frameRate: { num: 24, den: 1 } })
  expect(mends.map(({ kind, areas }) => [kind, areas.map(({ id }) => id)])).toEqual([
    ['pixel', ['a', 'b']],
    ['dust', ['mote-1']],
  ])
})

test('they join mends that are there, each once, whatever is asked again', async () => {
  const first = (await accept(written('first.json', [pixel('a', 100.5, 1)]))).out
  const more = written('more.json', [pixel('a', 100.5, 1), pixel('c', 9.5, 0.4)])
  expect(await accept(more, { mends: first, from: '0.3' })).toMatchObject({
    accepted: 1,
    alreadyMended: 1,
    leftOut: 0,
    mends: 1,
  })
  expect(documentIn(first).mends[0]!.areas.map(({ id }) => id)).toEqual(['a', 'c'])
  expect(await accept(more, { mends: first, from: '0.3' })).toMatchObject({ accepted: 0, alreadyMended: 2 })
})

test.each([
  ['a sureness that is none', () => accept(written('f.json', []), { from: '2' }), EXIT.usage, /from 0 to 1/],
  ['no file', () => accept(join(folder, 'none.json')), EXIT.mends, /cannot be read/],
  ['no JSON', () => (writeFileSync(join(folder, 'x.json'), '{'), accept(join(folder, 'x.json'))), EXIT.mends, /is not JSON/],
  ['no finds', () => (writeFileSync(join(folder, 'y.json'), '{}'), accept(join(folder, 'y.json'))), EXIT.mends, /Make it with the survey command/],
] as const)('%s is refused in words', async (_, run, exitCode, words) => {
  const wrong = await run().catch((cause: unknown) => cause)
  expect(wrong).toMatchObject({ exitCode, message: expect.stringMatching(words) as unknown })
}) // prettier-ignore

test('finds of another plate are refused', async () => {
  const mends = (await accept(written('one.json', [mote]))).out
  const other = written('other.json', [mote], { ...PLATE, width: 320 })
  await expect(accept(other, { mends })).rejects.toThrow(/640 × 360 px.*320 × 360 px.*same plate/s)
})
