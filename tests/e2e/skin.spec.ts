/** Skin under the hands: an outline round a face evens it where it has the tone of skin, and spots are clicked away. */
import { execFileSync } from 'node:child_process'
import { join } from 'node:path'
import sharp from 'sharp'
import { parseDocument } from '../../core/document/document'
import { samplesFromRaster } from '../../core/image/samples'
import { FACE, paintedFace, partAt } from '../fixtures/paintedFace'
import { MendStage, renderedPictures } from './bench'
import { DEMO_FOLDER } from './demoFilm'
import { expect, test } from './test'

test.describe.configure({ mode: 'serial' })

const SCALE = 3
const COUNT = 4
const [WIDTH, HEIGHT] = [SCALE * FACE.width, SCALE * FACE.height]
/** Spots, px: dark and light. */
const SPOTS = [
  { x: 150, y: 262, radiusPx: 7, by: -0.16 },
  { x: 228, y: 285, radiusPx: 6, by: 0.14 },
] as const

const at = (raster: Uint8Array, x: number, y: number, c = 0): number =>
  raster[3 * (Math.round(y) * WIDTH + Math.round(x)) + c]!

/** The same face on every frame, with blotches and two spots. */
async function facePixels(): Promise<Buffer> {
  const small = paintedFace([62, 11, 18], [1, 1, 1], { blotches: 0.03, pores: 0 })
  const { data } = samplesFromRaster(small, 8)
  const large = await sharp(Buffer.from(data as Uint8Array), {
    raw: { width: FACE.width, height: FACE.height, channels: 3 },
  })
    .resize(WIDTH, HEIGHT, { kernel: 'cubic' })
    .raw()
    .toBuffer()
  for (let pixel = 0; pixel < WIDTH * HEIGHT; pixel++) {
    for (const { x, y, radiusPx, by } of SPOTS) {
      const away = ((pixel % WIDTH) - x) ** 2 + (Math.floor(pixel / WIDTH) - y) ** 2
      const share = Math.max(0, 1 - away / (radiusPx * radiusPx))
      for (let c = 0; c < 3; c++)
        large[3 * pixel + c] = Math.min(
          255,
          Math.max(0, Math.round(large[3 * pixel + c]! + 255 * by * share)),
        )
    }
  }
  return large
}

function faceClip(): string {
  const file = join(DEMO_FOLDER, 'face.mkv')
  const frames = Buffer.concat(Array.from({ length: COUNT }, () => pixels))
  const raw = ['-f', 'rawvideo', '-pix_fmt', 'rgb24', '-s', `${WIDTH}x${HEIGHT}`, '-r', '24', '-i', '-']
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...raw, '-c:v', 'ffv1', '-g', '1', '-pix_fmt', 'bgr0', file], {
    input: frames,
  })
  return file
}

let pixels: Buffer
let shotId: string

test('a shot to work on', async ({ page }) => {
  pixels = await facePixels()
  await page.goto('/')
  const cards = page.getByTestId('shot-card')
  const before = await cards.count()
  await page.getByTestId('file-input').setInputFiles(faceClip())
  await expect(cards).toHaveCount(before + 1)
  shotId = (await cards.last().getByRole('link').getAttribute('href'))!.split('/')[2]!
})

test('an outline round the face, and two spots clicked: settings are kept', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId)
  const outline = Array.from({ length: 10 }, (_, i) => (2 * Math.PI * i) / 10).map(
    (turn) =>
      [
        SCALE * (FACE.x + (FACE.radiusX + 3) * Math.cos(turn)),
        SCALE * (FACE.y + (FACE.radiusY + 3) * Math.sin(turn)),
      ] as const,
  )
  await stage.draw('Skin', outline)
  await stage.saved()
  await stage.unfold('Fill')
  await stage.type('Evenness', 100)
  await stage.type('Radius', 40)
  await stage.saved()
  await stage.draw(
    'Blemish',
    SPOTS.map(({ x, y }) => [x, y] as const),
  )
  await stage.saved()
  const parsed = parseDocument(await (await page.request.get(`/shots/${shotId}/mends.json`)).text())
  if (!parsed.ok) throw new Error(parsed.detail)
  expect(parsed.document.mends).toMatchObject([
    { kind: 'skin', fill: { methodId: 'even-skin', params: { evenness: 100, radiusPx: 40 } } },
    { kind: 'blemish', fill: { methodId: 'heal', params: { structure: 'own', touch: 'found' } } },
  ])
  expect(parsed.document.mends[1]!.areas).toHaveLength(2)
})

test('rendered: blotches and spots are gone, eyes, lips and the wall are untouched', async ({ page }) => {
  const [, png] = [...(await renderedPictures(page, shotId))].find(([name]) => name.endsWith('.png'))!
  const data = await sharp(png).removeAlpha().raw().toBuffer()
  const change = (x: number, y: number) => Math.abs(at(data, x, y) - at(pixels, x, y))
  for (const { x, y } of SPOTS) expect(change(x, y)).toBeGreaterThan(20)
  let [was, is] = [0, 0]
  for (let y = 130; y < 185; y++) {
    for (let x = 150; x < 210; x++) {
      if (partAt(x / SCALE, y / SCALE) !== 'skin') continue
      // Blotches are waves of 54 px: half a wave on, they have turned round.
      was += (at(pixels, x, y) - at(pixels, x + 27, y)) ** 2
      is += (at(data, x, y) - at(data, x + 27, y)) ** 2
    }
  }
  expect(is).toBeLessThan(0.6 * was)
  const [left, lips] = [FACE.x - 15, FACE.y + 24].map((one) => SCALE * one) as [number, number]
  expect(change(left, SCALE * (FACE.y - 10))).toBeLessThanOrEqual(1)
  expect(change(SCALE * FACE.x, lips)).toBeLessThanOrEqual(2)
  expect(change(8, HEIGHT - 8)).toBe(0)
})
