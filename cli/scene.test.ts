import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { apply } from '../core/geometry/transform'
import { DOCUMENT_FORMAT, DOCUMENT_VERSION, serialiseDocument } from '../core/document/document'
import { fillOf, sampleEllipse, sampleMend } from '../tests/fixtures/sampleMend'
import { sceneSource, wavesAt } from '../tests/fixtures/sampleScene'
import { motionBetween, sceneSchema } from '../core/scene/scene'
import { writePngSequence } from '../tests/media'
import type { KeyedArea } from '../core/document/areas'
import { geometryAt, middleOf } from '../core/document/keyedGeometry'
import { tracksById } from '../core/document/tracks'
import { followThings } from './followThing'
import { readDocument } from './plate'
import { EXIT } from './exitCodes'
import { mendFootage } from './mend'
import { readScene } from './readScene'
import { sceneOfFootage } from './scene'

const SIZE = { width: 192, height: 128 }
const FRAMES = 8
const goneAt = (i: number) => ({ x: 2 * i, y: i })
const middleAt = (i: number) => 40 + 14 * i
const never = new AbortController().signal
const quiet = () => undefined
let folder: string
let plate: string

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'cli-scene-'))
  const source = sceneSource(SIZE, (i) => ({
    background: (x, y, c) => wavesAt(x - goneAt(i).x, y - goneAt(i).y, c, 6),
    isHidden: (x, y) => (x - middleAt(i)) * (x - middleAt(i)) + (y - 64) * (y - 64) < 100,
  }))
  const frames = await Promise.all(
    Array.from({ length: FRAMES }, (_, i) => source.readRect(i, { col: 0, row: 0, ...SIZE })),
  )
  plate = await writePngSequence(join(folder, 'plate'), frames)
})
afterAll(() => rmSync(folder, { recursive: true }))

/** The moving disc under a clean plate; frames are numbered as the pictures are. */
function mendsFile(firstFrame: number): string {
  const path = join(folder, 'mends.json')
  const mend = sampleMend({
    areas: [
      sampleEllipse({
        interpolation: 'linear',
        keys: [0, FRAMES - 1].map((i) => ({
          frame: firstFrame + i,
          x: middleAt(i),
          y: 64,
          radiusXPx: 12,
          radiusYPx: 12,
          turnDeg: 0,
        })),
      }),
    ],
    fill: fillOf('clean-plate'),
    finish: { ...sampleMend().finish, grain: 0 },
    span: { firstFrame, lastFrame: firstFrame + FRAMES - 1 },
  })
  const shape = { name: 'disc', ...SIZE, firstFrame, frameCount: FRAMES, frameRate: { num: 24, den: 1 } }
  writeFileSync(
    path,
    serialiseDocument({
      format: DOCUMENT_FORMAT,
      version: DOCUMENT_VERSION,
      plate: shape,
      mends: [mend],
      tracks: [],
    }),
  )
  return path
}

const options = (out: string, more: { mends?: string } = {}) => ({
  plate,
  out: join(folder, out),
  firstFrame: '1001',
  rate: '',
  ...more,
})

test('the motion of a plate is worked out, written, read again, and mends gather by it', async () => {
  const bare = await sceneOfFootage(options('bare.json'), quiet, never)
  expect(bare).toMatchObject({ frames: FRAMES, isLocked: false })
  const first = sceneSchema.parse(JSON.parse(readFileSync(join(folder, 'bare.json'), 'utf8'))).plate
    .firstFrame
  const mends = mendsFile(first)
  const said: string[] = []
  const summary = await sceneOfFootage(options('scene.json', { mends }), (text) => said.push(text), never)
  expect(summary.layers).toBe(1)
  expect(summary.leastSure).toBeGreaterThan(0.7)
  expect(said.join('')).toContain(`${2 * FRAMES} of ${2 * FRAMES} steps`)
  const scene = await readScene(join(folder, 'scene.json'))
  const at = apply(motionBetween(scene, 0, first, first + FRAMES - 1), 96, 64)
  expect(Math.hypot(at.x - 96 - goneAt(FRAMES - 1).x, at.y - 64 - goneAt(FRAMES - 1).y)).toBeLessThan(0.15)

  const out = join(folder, 'mended.mkv')
  const done = await mendFootage(
    { plate, mends, out, rate: '', scene: join(folder, 'scene.json') },
    quiet,
    never,
  )
  expect(done).toMatchObject({ frames: FRAMES, notes: [] })
})

test('an object that was outlined on one frame goes with its thing', async () => {
  const bare = await sceneOfFootage(options('bare.json'), quiet, never)
  expect(bare.frames).toBe(FRAMES)
  const scene = join(folder, 'bare.json')
  const firstFrame = (await readScene(scene)).plate.firstFrame
  const path = mendsFile(firstFrame)
  const document = await readDocument(path)
  const keys = [{ frame: firstFrame + 3, x: middleAt(3), y: 64, radiusXPx: 14, radiusYPx: 14, turnDeg: 0 }]
  const object = { ...document.mends[0]!, kind: 'object' as const, areas: [sampleEllipse({ keys })] }
  writeFileSync(path, serialiseDocument({ ...document, mends: [object] }))
  const out = join(folder, 'followed.json')
  const summary = await followThings({ plate, mends: path, scene, out, rate: '' }, quiet, never)
  expect(summary).toMatchObject({ areas: 1, warnings: [] })
  const { mends, tracks } = await readDocument(out)
  for (let i = 0; i < FRAMES; i++) {
    const at = middleOf(geometryAt(mends[0]!.areas[0] as KeyedArea, tracksById(tracks), firstFrame + i))
    expect(Math.hypot(at.x - middleAt(i), at.y - 64)).toBeLessThan(1.5)
  }
})

test('what is no scene is refused in words', async () => {
  const refusal = (text: string) => {
    writeFileSync(join(folder, 'wrong.json'), text)
    return readScene(join(folder, 'wrong.json')).catch((cause: unknown) => cause)
  }
  expect(await refusal('{')).toMatchObject({
    exitCode: EXIT.mends,
    message: expect.stringContaining('not JSON') as string,
  })
  expect(await refusal('{"format":"fillagrant-scene"}')).toMatchObject({
    exitCode: EXIT.mends,
    message: expect.stringContaining('scene command') as string,
  })
  expect(await readScene(join(folder, 'nowhere.json')).catch((cause: unknown) => cause)).toMatchObject({
    exitCode: EXIT.mends,
  })
})

test('a plate that cannot be found, and a stop, end with their own exit codes; nothing is written', async () => {
  const missing = await sceneOfFootage(
    { ...options('none.json'), plate: join(folder, 'nothing.mkv') },
    quiet,
    never,
  ).catch((cause: unknown) => cause)
  expect(missing).toMatchObject({ exitCode: EXIT.plate })
  const stop = new AbortController()
  stop.abort()
  expect(
    await sceneOfFootage(options('none.json'), quiet, stop.signal).catch((cause: unknown) => cause),
  ).toMatchObject({ exitCode: EXIT.stopped })
  expect(() => readFileSync(join(folder, 'none.json'))).toThrow()
})
