import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { movingWall } from '../tests/fixtures/movingWall'
import { translationBy } from '../core/geometry/transform'
import { createSamples, type Samples } from '../core/image/samples'
import { parseDocument, serialiseDocument, type MendDocument } from '../core/document/document'
import { sampleMend, samplePath } from '../tests/fixtures/sampleMend'
import { parseFile, tracksFileSchema } from '../core/document/trackFiles'
import { trackMotionAt } from '../core/document/tracks'
import { writePngSequence } from '../tests/media'
import { EXIT } from './exitCodes'
import { mendFootage } from './mend'
import { clingFootage, trackFootage } from './track'

let folder: string
let plate: string
const SIZE = { width: 128, height: 96 }
const motion = (i: number) => translationBy(1.5 * i, 0.5 * i)
const never = new AbortController().signal
const quiet = () => undefined

/** The wall with a dark line across it that sways. */
async function frameAt(i: number): Promise<Samples> {
  const wall = await movingWall({ motion }, SIZE).readRect(i + 1, { col: 0, row: 0, ...SIZE })
  const out = createSamples(SIZE.width, SIZE.height, 3, 8)
  for (let at = 0; at < out.data.length; at++) {
    const pixel = Math.floor(at / 3)
    const off = Math.abs((pixel % SIZE.width) + 0.5 - (90 + 2 * i))
    out.data[at] = Math.round(wall.data[at]! + Math.min(1, Math.max(0, 3 - off)) * (15 - wall.data[at]!))
  }
  return out
}

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'cli-track-'))
  plate = await writePngSequence(join(folder, 'plate'), await Promise.all([0, 1, 2, 3].map(frameAt)))
})
afterAll(() => rmSync(folder, { recursive: true }))

const pointsFile = (tracks: unknown) => {
  const path = join(folder, 'points.json')
  writeFileSync(path, JSON.stringify({ format: 'fillagrant-points', version: 1, tracks }))
  return path
}
const options = (points: string, out = 'tracks.json') => ({
  plate,
  points,
  out: join(folder, out),
  firstFrame: '1001',
  rate: '',
})

test('points are followed both ways and written as JSON and as a table', async () => {
  const points = pointsFile([{ name: 'Spot', kind: 'point', frame: 1002, seed: [40.2, 46.1] }])
  const said: string[] = []
  const summary = await trackFootage(options(points), (text) => said.push(text), never)
  expect(summary).toMatchObject({ tracks: 1, frames: 3 })
  expect(summary.ends.map(({ direction, reason }) => [direction, reason])).toEqual([['forward', 'finished'], ['backward', 'finished']]) // prettier-ignore
  expect(said.join('')).toMatch(/frames followed/)
  const file = parseFile(tracksFileSchema, readFileSync(join(folder, 'tracks.json'), 'utf8'))
  if (!file.ok) throw new Error(file.detail)
  const [track] = file.value.tracks
  expect(track!.frames.map(([frame]) => frame)).toEqual([1001, 1002, 1003, 1004])
  const m = trackMotionAt(track!, 1004)!
  expect(Math.hypot(m[2] - 3, m[5] - 1)).toBeLessThan(0.1)
  await trackFootage(options(points, 'tracks.csv'), quiet, never)
  expect(readFileSync(join(folder, 'tracks.csv'), 'utf8').split('\r\n')).toHaveLength(6)
})

const rough: MendDocument = {
  format: 'fillagrant-mends',
  version: 4,
  plate: { name: 'shot', ...SIZE, firstFrame: 1001, frameCount: 4, frameRate: { num: 24, den: 1 } },
  mends: [sampleMend({ areas: [samplePath({ keys: [{ frame: 1002, points: [{ x: 88, y: -5, widthPx: 10 }, { x: 96, y: 102, widthPx: 10 }] }] })], span: { firstFrame: 1001, lastFrame: 1004 } })], // prettier-ignore
  tracks: [],
}

test('a rough path clings to its line on every frame, and the mends then render', async () => {
  const mends = join(folder, 'rough.json')
  writeFileSync(mends, serialiseDocument(rough))
  const out = join(folder, 'clung.json')
  expect(await clingFootage({ plate, mends, out, rate: '' }, quiet, never)).toMatchObject({ tracks: 1 })
  const result = parseDocument(readFileSync(out, 'utf8'))
  if (!result.ok) throw new Error(result.detail)
  const [track] = result.document.tracks
  expect(track!.frames).toHaveLength(4)
  for (const [frame, , ...values] of track!.frames) {
    for (let k = 0; k < values.length; k += 3) {
      if (values[k + 1]! < 0 || values[k + 1]! > SIZE.height) continue
      expect(Math.abs(values[k]! - 90 - 2 * (frame - 1001))).toBeLessThan(0.5)
      expect(Math.abs(values[k + 2]! - 5)).toBeLessThan(0.8)
    }
  }
  expect(
    await mendFootage({ plate, mends: out, out: join(folder, 'done.%04d.png'), rate: '' }, quiet, never),
  ).toMatchObject({ frames: 4, notes: [] })
})

test('a path that shows no line stays as it was drawn, and the summary warns', async () => {
  const [mend] = rough.mends
  const drawn = samplePath({ keys: [{ frame: 1002, points: [{ x: 10, y: 20, widthPx: 6 }, { x: 14, y: 24, widthPx: 6 }] }] }) // prettier-ignore
  const mends = join(folder, 'beside.json')
  writeFileSync(mends, serialiseDocument({ ...rough, mends: [{ ...mend!, areas: [drawn] }] }))
  const out = join(folder, 'beside-clung.json')
  const said: string[] = []
  const { warnings, tracks } = await clingFootage(
    { plate, mends, out, rate: '' },
    (text) => void said.push(text),
    never,
  )
  expect(tracks).toBe(0)
  expect(warnings).toEqual([expect.stringMatching(/^Wire 1 is drawn too short .* at frame 1002/)])
  expect(said.join('')).toContain(warnings[0])
  const kept = parseDocument(readFileSync(out, 'utf8'))
  expect(kept.ok && kept.document.mends[0]!.areas).toEqual([drawn])
})

test('what cannot be done is told with its exit code, and nothing is written', async () => {
  const wrong = (work: Promise<unknown>, exitCode: number, message: RegExp) =>
    expect(work).rejects.toMatchObject({ exitCode, message: expect.stringMatching(message) as string })
  await wrong(trackFootage(options(join(folder, 'none.json')), quiet, never), EXIT.usage, /cannot be read/)
  await wrong(
    trackFootage(options(pointsFile([{ name: 'P', kind: 'swirl', frame: 1, seed: [1, 2] }])), quiet, never),
    EXIT.usage,
    /kind/,
  )
  await wrong(
    trackFootage(
      options(pointsFile([{ name: 'P', kind: 'point', frame: 2000, seed: [1, 2] }])),
      quiet,
      never,
    ),
    EXIT.usage,
    /frames 1001 to 1004/,
  )
  await wrong(
    trackFootage(
      {
        ...options(pointsFile([{ name: 'P', kind: 'point', frame: 1001, seed: [40, 40] }])),
        plate: join(folder, 'no.mkv'),
      },
      quiet,
      never,
    ),
    EXIT.plate,
    /does not exist/,
  )
  const stopped = AbortSignal.abort()
  await wrong(
    trackFootage(
      options(pointsFile([{ name: 'P', kind: 'point', frame: 1001, seed: [40, 40] }]), 'never.json'),
      quiet,
      stopped,
    ),
    EXIT.stopped,
    /[Ss]topped/,
  )
})
