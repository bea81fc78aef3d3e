/** Finished files read again: every sample as it was written, and what is damaged said in words. */
import { createWriteStream, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pipeline } from 'node:stream/promises'
import sharp from 'sharp'
import { ZipFile } from 'yazl'
import type { BitDepth, Samples } from '../../core/image/samples'
import { patternFrame } from '../../tests/media'
import { isLossless, readDelivered, type DeliveredShape } from './delivered.server'
import { encodeFrames } from './encode.server'
import { MediaError } from './mediaError'

const RATE = { num: 24, den: 1 }
let folder: string
beforeAll(() => (folder = mkdtempSync(join(tmpdir(), 'delivered-'))))
afterAll(() => rmSync(folder, { recursive: true }))

const shapeOf = (channels: 3 | 4, bitDepth: BitDepth): DeliveredShape => ({
  width: 34,
  height: 22,
  channels,
  bitDepth,
  frameRate: RATE,
  frameCount: 3,
})
const framesOf = (channels: 3 | 4, bitDepth: BitDepth): Samples[] =>
  [0, 1, 2].map((i) => patternFrame(34, 22, channels, bitDepth, i))

async function zipOf(name: string, frames: readonly Samples[]): Promise<string> {
  const zip = new ZipFile()
  for (const [i, { width, height, channels, data }] of frames.entries()) {
    const raw = { width, height, channels: channels as 3 | 4 }
    const picture =
      data.BYTES_PER_ELEMENT === 1
        ? sharp(data, { raw })
        : sharp(data as Uint16Array, { raw }).toColourspace('rgb16')
    zip.addBuffer(await picture.png().toBuffer(), `shot/shot.${1001 + i}.png`, { compress: false })
  }
  zip.end()
  const path = join(folder, name)
  await pipeline(zip.outputStream, createWriteStream(path))
  return path
}

async function ffv1Of(
  name: string,
  frames: readonly Samples[],
  { channels, bitDepth }: DeliveredShape,
): Promise<string> {
  const path = join(folder, name)
  const sink = encodeFrames({ format: 'ffv1', path, startNumber: 0, width: 34, height: 22, channels, bitDepth, frameRate: RATE }) // prettier-ignore
  for (const frame of frames) await sink.write(frame)
  await sink.finish()
  return path
}

async function readAll(format: 'png' | 'ffv1', path: string, shape: DeliveredShape): Promise<Samples[]> {
  const frames: Samples[] = []
  for await (const frame of readDelivered(format, path, 'shot_v001', shape)) frames.push(frame)
  return frames
}

const KINDS = [
  [3, 8],
  [4, 8],
  [3, 16],
  [4, 16],
] as const

test.each(KINDS)(
  'pictures in an archive come back to the bit (%i channels, %i bits)',
  async (channels, bitDepth) => {
    const frames = framesOf(channels, bitDepth)
    const path = await zipOf(`${channels}-${bitDepth}.zip`, frames)
    expect(await readAll('png', path, shapeOf(channels, bitDepth))).toEqual(frames)
  },
)

test.each(KINDS)('so does FFV1 (%i channels, %i bits)', async (channels, bitDepth) => {
  const frames = framesOf(channels, bitDepth)
  const path = await ffv1Of(`${channels}-${bitDepth}.mkv`, frames, shapeOf(channels, bitDepth))
  expect(await readAll('ffv1', path, shapeOf(channels, bitDepth))).toEqual(frames)
})

test('an archive that is cut off, or has pictures of another size, is said so', async () => {
  const path = await zipOf('whole.zip', framesOf(3, 8))
  const cut = join(folder, 'cut.zip')
  writeFileSync(cut, readFileSync(path).subarray(0, 300))
  await expect(readAll('png', cut, shapeOf(3, 8))).rejects.toThrow(MediaError)
  await expect(readAll('png', cut, shapeOf(3, 8))).rejects.toThrow(/Make the version once more/)
  await expect(readAll('png', path, { ...shapeOf(3, 8), width: 35 })).rejects.toThrow(
    /1001.* not of the size/,
  )
})

test('a film that is shorter than what was rendered is said so', async () => {
  const path = await ffv1Of('short.mkv', framesOf(3, 8).slice(0, 1), shapeOf(3, 8))
  await expect(readAll('ffv1', path, shapeOf(3, 8))).rejects.toThrow(MediaError)
})

test('only what keeps every sample is lossless', () => {
  expect((['png', 'ffv1', 'vp9'] as const).map(isLossless)).toEqual([true, true, false])
})
