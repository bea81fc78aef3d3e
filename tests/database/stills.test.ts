/** Still pictures, brought in and read back in part. */
import { mkdtempSync, rmSync } from 'node:fs'
import { readdir } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import type { PlateShape } from '../../core/shot/clip'
import type { ServerContext } from '../../server/context.server'
import { createDirectoryStore } from '../../server/frames/store.server'
import { readImportedStill, receiveStill } from '../../server/stills.server'

const plate: PlateShape = { width: 40, height: 30, channels: 3, bitDepth: 8 }
let folder: string
beforeAll(() => void (folder = mkdtempSync(join(tmpdir(), 'stills-'))))
afterAll(() => rmSync(folder, { recursive: true }))

const frames = () => createDirectoryStore(join(folder, 'frames'))
const context = () => ({ frames: frames(), folders: { uploads: join(folder, 'uploads') } }) as ServerContext
const take = (bytes: Buffer, shape = plate) =>
  receiveStill(context(), new Blob([new Uint8Array(bytes)]).stream() as never, shape, 'sky.png')
const pixels = Uint8Array.from({ length: 40 * 30 * 3 }, (_, i) => (i * 7) % 251)
const raw = (width = 40, height = 30) =>
  sharp(pixels.slice(0, width * height * 3), { raw: { width, height, channels: 3 } })

test('a picture of the plate’s size keeps every sample, whole and in part', async () => {
  const name = await take(await raw().png().toBuffer())
  expect(name).toMatch(/^still:[0-9a-f-]{36}$/)
  const whole = await readImportedStill(frames(), plate, name, { col: 0, row: 0, width: 40, height: 30 })
  expect([...whole!.data]).toEqual([...pixels])
  const part = await readImportedStill(frames(), plate, name, { col: 5, row: 3, width: 2, height: 1 })
  expect([...part!.data]).toEqual([...pixels.slice((3 * 40 + 5) * 3, (3 * 40 + 7) * 3)])
  expect(await readdir(join(folder, 'uploads'))).toEqual([])
})

test('another size covers the plate; more bits and alpha come as the plate has them', async () => {
  const wide = await take(
    await sharp({ create: { width: 100, height: 30, channels: 3, background: '#804020' } })
      .jpeg({ quality: 100 })
      .toBuffer(),
  )
  const { data } = (await readImportedStill(frames(), plate, wide, {
    col: 39,
    row: 29,
    width: 1,
    height: 1,
  }))!
  expect(Math.abs(data[0]! - 0x80)).toBeLessThan(3)
  const deep: PlateShape = { ...plate, channels: 4, bitDepth: 16 }
  const rgba = await take(await raw().png().toBuffer(), deep)
  const first = (await readImportedStill(frames(), deep, rgba, { col: 1, row: 0, width: 1, height: 1 }))!
  expect([...first.data]).toEqual([pixels[3]! * 257, pixels[4]! * 257, pixels[5]! * 257, 65535])
  const deepPixels = Uint16Array.from({ length: 40 * 30 * 3 }, (_, i) => (i * 7919) % 65536)
  const png = sharp(deepPixels, { raw: { width: 40, height: 30, channels: 3 } })
  const kept = await take(await png.toColourspace('rgb16').png().toBuffer(), { ...deep, channels: 3 })
  const corner = (await readImportedStill(frames(), { ...deep, channels: 3 }, kept, {
    col: 39,
    row: 29,
    width: 1,
    height: 1,
  }))!
  expect([...corner.data]).toEqual([...deepPixels.slice(-3)])
})

test('what is no picture, and names that lead elsewhere, are refused; nothing is left behind', async () => {
  await expect(take(Buffer.from('no picture'))).rejects.toThrow('cannot be read as a still')
  await expect(
    take(Buffer.from('<svg xmlns="http://www.w3.org/2000/svg" width="4" height="4"/>')),
  ).rejects.toThrow('PNG, JPEG, TIFF and WebP')
  const rect = { col: 0, row: 0, width: 1, height: 1 }
  expect(await readImportedStill(frames(), plate, 'still:../../etc/passwd', rect)).toBeNull()
  expect(await readImportedStill(frames(), plate, 'sky.png', rect)).toBeNull()
  expect(
    await readImportedStill(frames(), plate, 'still:00000000-0000-4000-8000-000000000000', rect),
  ).toBeNull()
  expect(await readdir(join(folder, 'uploads'))).toEqual([])
})
