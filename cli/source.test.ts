import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { parseDocument, serialiseDocument } from '../core/document/document'
import { createSamples } from '../core/image/samples'
import { sampleMend, fillOf } from '../tests/fixtures/sampleMend'
import { writePngSequence } from '../tests/media'
import { createRandom } from '../tests/random'
import { suggestSourcesOf } from './source'

const SIZE = { width: 320, height: 200 }
const SPAN = { firstFrame: 1001, lastFrame: 1003, rampInFrames: 0, rampOutFrames: 0 }
const PERIOD = 64
let folder: string
let plate: string

/** A wall that repeats itself every 64 px, with something else over one place. */
function wall(seed: number) {
  const [pattern, grain] = [createRandom(5), createRandom(seed)]
  const tile = Array.from({ length: PERIOD * SIZE.height }, () => 60 + 120 * pattern())
  const samples = createSamples(SIZE.width, SIZE.height, 3, 8)
  for (let row = 0; row < SIZE.height; row++)
    for (let col = 0; col < SIZE.width; col++) {
      const isThing = Math.abs(col - 160) < 10 && Math.abs(row - 100) < 10
      const value = isThing ? 250 : tile[row * PERIOD + (col % PERIOD)]! + 4 * grain()
      samples.data.fill(value, (row * SIZE.width + col) * 3, (row * SIZE.width + col) * 3 + 3)
    }
  return samples
}

const corner = (x: number, y: number) => ({ x, y, inX: 0, inY: 0, outX: 0, outY: 0 })
const patch = (id: string) =>
  sampleMend({
    id,
    kind: 'patch',
    name: `Patch ${id}`,
    span: SPAN,
    fill: fillOf('heal'),
    areas: [
      {
        shape: 'outline', id: 'a', role: 'cover', interpolation: 'smooth', follow: null,
        keys: [{ frame: 1001, points: [corner(148, 88), corner(172, 88), corner(172, 112), corner(148, 112)] }],
      },
    ],
  }) // prettier-ignore

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'cli-source-'))
  plate = await writePngSequence(join(folder, 'plate'), [wall(1), wall(2), wall(3)])
  const document = {
    format: 'fillagrant-mends',
    version: 4,
    plate: { name: 'wall', ...SIZE, firstFrame: 1001, frameCount: 3, frameRate: { num: 24, den: 1 } },
    mends: [patch('one'), sampleMend({ id: 'soft', fill: fillOf('soften'), span: SPAN })],
    tracks: [],
  } as const
  writeFileSync(join(folder, 'mends.json'), serialiseDocument(document as never))
})
afterAll(() => rmSync(folder, { recursive: true }))

const options = (mends: string) => ({
  plate,
  mends: join(folder, mends),
  out: join(folder, 'out.json'),
  rate: '',
})

test('what copies gets the place that looks like it; what has one, or needs none, stays as it is', async () => {
  const said: string[] = []
  const summary = await suggestSourcesOf(
    options('mends.json'),
    (text) => said.push(text),
    new AbortController().signal,
  )
  expect(Object.keys(summary.suggested)).toEqual(['one'])
  expect(summary.warnings).toEqual([])
  const [best] = summary.suggested['one']!
  // The wall is the same one period beside.
  expect(Math.abs(Math.round(best!.dx)) % PERIOD).toBe(0)
  expect(Math.abs(best!.dx)).toBeGreaterThan(0)
  expect(best!.dy).toBeCloseTo(0, 0)
  const parsed = parseDocument(readFileSync(summary.out, 'utf8'))
  if (!parsed.ok) throw new Error(parsed.detail)
  expect(parsed.document.mends.map(({ source }) => source?.keys[0])).toEqual([
    { frame: 1001, dx: best!.dx, dy: best!.dy, turnDeg: 0, scale: 1 },
    undefined,
  ])
  const again = await suggestSourcesOf(options('out.json'), () => undefined, new AbortController().signal)
  expect(again.suggested).toEqual({})
})

test('stopped, it writes nothing', async () => {
  const stop = new AbortController()
  const out = join(folder, 'never.json')
  const work = suggestSourcesOf({ ...options('mends.json'), out }, () => stop.abort(), stop.signal)
  await expect(work).rejects.toMatchObject({ message: expect.stringMatching(/^Stopped/) as unknown })
  expect(() => readFileSync(out)).toThrow()
})
