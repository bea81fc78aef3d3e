/** Pictures of marks on disk: what goes in comes out, and what is none is refused in words. */
import { mkdtempSync, readdirSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { readMark, readMarkFile, readMarkSamples, receiveMarkFile, receiveMarkSamples } from './marks.server'

const folder = mkdtempSync(join(tmpdir(), 'marks-'))
afterAll(() => rmSync(folder, { recursive: true }))

const size = { width: 3, height: 2 }
const samples = Uint16Array.from({ length: 24 }, (_, i) => (i * 2731) % 65536)
const streamOf = (bytes: Uint8Array) => new Blob([bytes as BlobPart]).stream() as never

test('16-bit samples come back to the bit, as samples, as a file and as a mark', async () => {
  const name = await receiveMarkSamples(folder, size, new Uint8Array(samples.slice().buffer))
  expect(name).toMatch(/^mark:[0-9a-f-]{36}$/)
  const read = await readMarkSamples(folder, name)
  expect(read).toMatchObject({ ...size, channels: 4 })
  expect(Array.from(read!.data)).toEqual(Array.from(samples))
  const file = await readMarkFile(folder, name)
  expect(await sharp(file!).metadata()).toMatchObject({
    ...size,
    format: 'png',
    depth: 'ushort',
    channels: 4,
  })
  const mark = await readMark(folder, name)
  expect(mark!.opacity[0]).toBeCloseTo(samples[3]! / 65535, 6)
  expect(mark!.added[1]).toBeCloseTo((samples[1]! / 65535) * (samples[3]! / 65535), 6)
})

test('a picture with alpha that was made elsewhere is widened to 16 bits', async () => {
  const png = await sharp(Buffer.from([255, 0, 102, 51]), { raw: { width: 1, height: 1, channels: 4 } })
    .png()
    .toBuffer()
  const read = await readMarkSamples(folder, await receiveMarkFile(folder, streamOf(png), 'logo.png'))
  expect(Array.from(read!.data)).toEqual([65535, 0, 102 * 257, 51 * 257])
})

test('what is incomplete or no picture with alpha is refused, and nothing of it is left', async () => {
  const before = readdirSync(folder).length
  await expect(receiveMarkSamples(folder, size, new Uint8Array(8))).rejects.toThrow('came incomplete')
  const flat = await sharp({ create: { ...size, channels: 3, background: '#123' } })
    .png()
    .toBuffer()
  await expect(receiveMarkFile(folder, streamOf(flat), 'logo.png')).rejects.toThrow('it has no alpha channel')
  await expect(receiveMarkFile(folder, streamOf(Buffer.from('no picture')), 'logo.png')).rejects.toThrow(
    'logo.png cannot be read as a mark: it is no picture',
  )
  expect(readdirSync(folder).length).toBe(before)
})

test('names reach no other file', async () => {
  for (const name of [
    'mark:../marks',
    'mark:',
    '../x',
    'mark:00000000-0000-4000-8000-000000000000',
    'still:x',
  ])
    expect(await readMark(folder, name)).toBeNull()
})
