import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { cropSamples } from '../../core/image/samples'
import { ffmpeg, patternFrame } from '../../tests/media'
import { createDirectoryStore } from './store.server'

const plateId = '6f1c1f5e-8b1d-4c62-9d3a-000000000001'
let root: string
beforeEach(() => (root = mkdtempSync(join(tmpdir(), 'store-'))))
afterEach(() => rmSync(root, { recursive: true }))

describe.each([
  [3, 8],
  [4, 8],
  [3, 16],
  [4, 16],
] as const)('%i channels at %i bits', (channels, bitDepth) => {
  const shape = { width: 20, height: 12, channels, bitDepth }
  const frame = patternFrame(20, 12, channels, bitDepth, 5)

  test('any rectangle comes back bit for bit, and only after commit', async () => {
    const store = createDirectoryStore(root)
    const writer = await store.createWriter(plateId)
    await writer.write(1001, frame)
    await expect(
      store.readRect(plateId, shape, 1001, { col: 0, row: 0, width: 1, height: 1 }),
    ).rejects.toMatchObject({ code: 'missing' })
    await writer.commit()
    for (const rect of [
      { col: 0, row: 0, width: 20, height: 12 },
      { col: 7, row: 3, width: 5, height: 6 },
      { col: 19, row: 11, width: 1, height: 1 },
    ]) {
      expect(await store.readRect(plateId, shape, 1001, rect)).toEqual(cropSamples(frame, rect))
    }
  })

  test('a stored frame is a PAM file that other tools read', async () => {
    const store = createDirectoryStore(root)
    const writer = await store.createWriter(plateId)
    await writer.write(1, frame)
    await writer.commit()
    const raw = join(root, 'out.raw')
    ffmpeg(
      '-i',
      join(root, plateId, '0000001.pam'),
      '-f',
      'rawvideo',
      '-pix_fmt',
      bitDepth === 8 ? (channels === 3 ? 'rgb24' : 'rgba') : channels === 3 ? 'rgb48le' : 'rgba64le',
      raw,
    )
    const { readFileSync } = await import('node:fs')
    const bytes = readFileSync(raw)
    expect(Buffer.from(frame.data.buffer).equals(bytes)).toBe(true)
  })
})

test('a damaged frame, a wrong place and a wrong name are refused', async () => {
  const store = createDirectoryStore(root)
  const shape = { width: 4, height: 4, channels: 3, bitDepth: 8 } as const
  const writer = await store.createWriter(plateId)
  await writer.write(1, patternFrame(4, 4, 3, 8, 0))
  await writer.commit()
  const whole = { col: 0, row: 0, width: 4, height: 4 }
  await expect(store.readRect(plateId, { ...shape, width: 5 }, 1, whole)).rejects.toMatchObject({
    code: 'unexpected-shape',
  })
  await expect(store.readRect(plateId, shape, 1, { ...whole, col: 1 })).rejects.toThrow(
    'rect must lie inside 4 × 4',
  )
  await expect(store.readRect('../../etc', shape, 1, whole)).rejects.toThrow('plateId must be a UUID')
  writeFileSync(
    join(root, plateId, '0000001.pam'),
    'P7\nWIDTH 4\nHEIGHT 4\nDEPTH 3\nMAXVAL 255\nTUPLTYPE RGB\nENDHDR\nxx',
  )
  await expect(store.readRect(plateId, shape, 1, whole)).rejects.toMatchObject({ code: 'unexpected-shape' })
})
