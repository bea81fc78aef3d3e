import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { geometryAt } from '../core/document/keyedGeometry'
import {
  DOCUMENT_FORMAT,
  DOCUMENT_VERSION,
  parseDocument,
  serialiseDocument,
} from '../core/document/document'
import { tracksById } from '../core/document/tracks'
import { compose, similarity, translationBy, apply } from '../core/geometry/transform'
import { SCENE_FORMAT, SCENE_VERSION, type Scene } from '../core/scene/scene'
import { sampleEllipse, sampleMend } from '../tests/fixtures/sampleMend'
import { followScene } from './follow'

const folder = mkdtempSync(join(tmpdir(), 'cli-follow-'))
afterAll(() => rmSync(folder, { recursive: true }))

const PLATE = { width: 640, height: 360, firstFrame: 1001, frameCount: 12 }
/** The background turns by 1° and grows by 1 % a frame, and pans. */
const motionOf = (i: number) =>
  compose(translationBy(3 * i, -i), similarity(1.01 ** i, (i * Math.PI) / 180, 0, 0))
const scene: Scene = {
  format: SCENE_FORMAT,
  version: SCENE_VERSION,
  plate: PLATE,
  layers: [
    {
      motions: Array.from({ length: 12 }, (_, i) => [...motionOf(i)] as never),
      sure: Array.from({ length: 12 }, (_, i) => (i === 7 ? 0.4 : 1)),
      points: 300,
      hiddenBy: [],
    },
  ],
  exposureStops: Array.from({ length: 12 }, () => 0),
  cells: null,
}
const written = (name: string, text: string): string => {
  const path = join(folder, name)
  writeFileSync(path, text)
  return path
}

test('an area that rests goes with the background from the frame of its key; one with keys goes as they say', async () => {
  const at = (frame: number, x: number) => ({ frame, x, y: 120, radiusXPx: 20, radiusYPx: 12, turnDeg: 0 })
  const resting = sampleEllipse({ keys: [at(1005, 200)] })
  const keyed = sampleEllipse({ id: 'k', keys: [at(1001, 300), at(1009, 330)] })
  const document = {
    format: DOCUMENT_FORMAT,
    version: DOCUMENT_VERSION,
    plate: { ...PLATE, name: 'wall', frameRate: { num: 24, den: 1 } },
    mends: [sampleMend({ id: 'a', areas: [resting] }), sampleMend({ id: 'b', name: 'Hand', areas: [keyed] })],
    tracks: [],
  } as const
  const summary = await followScene({
    mends: written('mends.json', serialiseDocument({ ...document, mends: [...document.mends], tracks: [] })),
    scene: written('scene.json', JSON.stringify(scene)),
    out: join(folder, 'out.json'),
  })
  expect(summary).toMatchObject({ areas: 1, warnings: [expect.stringMatching(/^Hand: .*keys/)] })
  const parsed = parseDocument(readFileSync(summary.out, 'utf8'))
  if (!parsed.ok) throw new Error(parsed.detail)
  const [mend, other] = parsed.document.mends
  const tracks = tracksById(parsed.document.tracks)
  const back = (frame: number) => motionOf(frame - 1001)
  const placeOn = (frame: number) => {
    const seen = geometryAt(mend!.areas[0] as typeof resting, tracks, frame)
    return seen.shape === 'ellipse' ? seen : null
  }
  for (const frame of [1001, 1005, 1012]) {
    // The piece of background under the middle on 1005, wherever it lies now.
    const [m, from] = [back(frame), back(1005)]
    const seen = placeOn(frame)!
    const ground = apply(m, ...unmoved(from, 200, 120))
    expect(Math.hypot(seen.x - ground.x, seen.y - ground.y)).toBeLessThan(0.01)
    expect(seen.turnDeg).toBeCloseTo(frame - 1005, 1)
    expect(seen.radiusXPx).toBeCloseTo(20 * 1.01 ** (frame - 1005), 1)
  }
  expect(parsed.document.tracks[0]).toMatchObject({ kind: 'planar', referenceFrame: 1005 })
  expect(parsed.document.tracks[0]!.frames[7]![1]).toBe(0.4) // as sure as the scene is there
  expect(other!.areas).toEqual([keyed])
})

/** The place that a similarity has taken to x, y. */
function unmoved(m: ReturnType<typeof motionOf>, x: number, y: number): [number, number] {
  const [a, b, c, d, e, f] = m
  const det = a * e - b * d
  return [(e * (x - c) - b * (y - f)) / det, (a * (y - f) - d * (x - c)) / det]
}
