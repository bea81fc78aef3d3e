/** Mattes made elsewhere, brought in and read back. */
import { randomUUID } from 'node:crypto'
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { readdir } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import type { ServerContext } from '../../server/context.server'
import { readImportedMatte, receiveMatte } from '../../server/mattes.server'
import { matteFile, readMattePicture } from '../../server/media/matte.server'

const size = { width: 40, height: 30 }
let folder: string
beforeAll(() => void (folder = mkdtempSync(join(tmpdir(), 'mattes-'))))
afterAll(() => rmSync(folder, { recursive: true }))

/** Covers columns 10 to 19 of rows 5 to 14, half of it fully. */
const pixels = Uint8Array.from({ length: 1200 }, (_, i) => {
  const [col, row] = [i % 40, Math.floor(i / 40)]
  return col >= 10 && col < 20 && row >= 5 && row < 15 ? (col < 15 ? 255 : 128) : 0
})
const png = () => sharp(pixels, { raw: { ...size, channels: 1 } }).png().toBuffer() // prettier-ignore

const context = () =>
  ({ folders: { mattes: join(folder, 'kept'), uploads: join(folder, 'uploads') } }) as ServerContext
const take = (matteId: string, frame: number, ending: string, bytes: Buffer, plate = size) =>
  receiveMatte(
    context(),
    { matteId, frame },
    ending,
    new Blob([new Uint8Array(bytes)]).stream() as never,
    plate,
    'matte.1001.png',
  )

test.each(['.png', '.tif', '.exr'])(
  'a %s picture is kept as coverage, cut to what it covers',
  async (ending) => {
    const file = join(folder, `m${ending}`)
    if (ending === '.png') await sharp(await png()).toFile(file)
    else if (ending === '.tif')
      await sharp(await png())
        .tiff({ compression: 'lzw' })
        .toFile(file)
    else {
      await sharp(await png()).toFile(join(folder, 'for-exr.png'))
      execFileSync('ffmpeg', [
        '-v',
        'error',
        '-y',
        '-i',
        join(folder, 'for-exr.png'),
        '-pix_fmt',
        'grayf32le',
        '-c:v',
        'exr',
        file,
      ])
    }
    const matteId = randomUUID()
    await take(matteId, 1003, ending, readFileSync(file))
    const matte = (await readImportedMatte(context().folders.mattes, `matte:${matteId}`, 1003))!
    expect(matte.rect).toEqual({ col: 10, row: 5, width: 10, height: 10 })
    expect(matte.coverage[0]).toBeCloseTo(1, 3)
    // EXR is linear light: the decoder's own conversion decides; a half stays between.
    expect(matte.coverage[9]! > 0.15 && matte.coverage[9]! < 0.85).toBe(true)
    expect(await readImportedMatte(context().folders.mattes, `matte:${matteId}`, 1004)).toBeNull()
  },
)

test('another size, other bytes and strange places are refused, and nothing is left behind', async () => {
  const matteId = randomUUID()
  await expect(take(matteId, 1, '.png', await png(), { width: 41, height: 30 })).rejects.toThrow(
    '40 × 30 px; the plate is 41 × 30 px',
  )
  await expect(take(matteId, 1, '.png', Buffer.from('no picture'))).rejects.toThrow(
    'cannot be read as a matte',
  )
  const huge = await sharp({ create: { width: 4000, height: 4000, channels: 3, background: 'white' } })
    .png()
    .toBuffer()
  await expect(take(matteId, 1, '.png', huge)).rejects.toThrow(
    /cannot be read as a matte.*of 4,800 pixels at most/,
  )
  await expect(readMattePicture(join(folder, 'm.mov'))).rejects.toThrow('Numbered PNG, TIFF or EXR')
  await expect(readdir(join(context().folders.mattes, matteId))).rejects.toThrow('ENOENT')
  expect(await readdir(context().folders.uploads)).toEqual([])
  expect(await readImportedMatte(context().folders.mattes, 'matte:../../etc', 1)).toBeNull()
  expect(await readImportedMatte(context().folders.mattes, 'clamp.####.png', 1)).toBeNull()
})

test('patterns name the file of a frame', () => {
  expect(['a.%04d.png', 'a.####.png', 'a.%d.exr'].map((pattern) => matteFile(pattern, 37))).toEqual([
    'a.0037.png',
    'a.0037.png',
    'a.37.exr',
  ])
})
