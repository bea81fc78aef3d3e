/** That a picture is all-round, as files say it: written here, read back by ffprobe and by the picture library; nothing else of a file changes. */
import { execFileSync } from 'node:child_process'
import { crc32 } from 'node:zlib'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import type { Samples } from '../../core/image/samples'
import { patternFrame, writePngSequence } from '../../tests/media'
import { decodeFrames } from './decode.server'
import { encodeFrames } from './encode.server'
import type { RenderFormat } from './formats'
import { withProjection } from './matroskaProjection'
import { probeMedia, type MediaInput } from './probe.server'
import { pngWithXmp, poseOfStream, poseOfXmp, tagRendered, UPRIGHT, xmpOf } from './sphere.server'

const folder = mkdtempSync(join(tmpdir(), 'fillagrant-sphere-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))
const size = { width: 64, height: 32 }
const rate = { num: 24, den: 1 }
/** ffprobe writes whole degrees. */
const pose = { yawDeg: 30, pitchDeg: -5, rollDeg: 2 }
const frames = [0, 1, 2].map((i) => patternFrame(size.width, size.height, 3, 8, i))

async function decoded(input: MediaInput): Promise<Samples[]> {
  const out: Samples[] = []
  for await (const frame of decodeFrames(input, await probeMedia(input))) out.push(frame)
  return out
}

async function video(format: RenderFormat, name: string): Promise<MediaInput> {
  const path = join(folder, name)
  const sink = encodeFrames({ format, path, startNumber: 0, ...size, channels: 3, bitDepth: 8, frameRate: rate }) // prettier-ignore
  for (const frame of frames) await sink.write(frame)
  await sink.finish()
  return { kind: 'video', path, shownName: name }
}

test.each([
  ['ffv1', 'a.mkv'],
  ['vp9', 'a.webm'],
] as const)('%s in %s says so, and is the same film', async (format, name) => {
  // prettier-ignore
  const input = await video(format, name)
  const path = join(folder, name)
  const [before, length] = [await decoded(input), readFileSync(path).length]
  expect((await probeMedia(input)).sphere).toBeNull()
  await tagRendered(format, path, pose, size)
  expect((await probeMedia(input)).sphere).toEqual(pose)
  expect(await decoded(input)).toEqual(before)
  expect(readFileSync(path)).toHaveLength(length)
  // The index still leads to what has moved: a demuxer that complains of nothing, and seeks.
  const said = execFileSync('ffmpeg', ['-v', 'warning', '-xerror', '-ss', '0.05', '-i', path, '-frames:v', '1', '-f', 'null', '-'], { stdio: ['ignore', 'pipe', 'pipe'] }) // prettier-ignore
  expect(said.toString()).toBe('')
})

const HEAD_BYTES = 1024

/** Lists of a file with the sum that each carries, and the one it should carry: read by other means than the code under test. */
function sums(file: Buffer): [number, number][] {
  const out: [number, number][] = []
  // The index names itself and the others by the same ids: the last ones are meant. The index (114D9B74) and the tracks (1654AE6B), each with a size of one or more bytes and a sum (BF 84) first.
  for (const id of ['114d9b74', '1654ae6b']) {
    const at = file.subarray(0, HEAD_BYTES).lastIndexOf(Buffer.from(id, 'hex')) + 4
    const bytes = Math.clz32(file[at]!) - 23
    const size = file.readUIntBE(at, bytes) - 2 ** (7 * bytes)
    const list = file.subarray(at + bytes, at + bytes + size)
    expect(list.subarray(0, 2).toString('hex')).toBe('bf84')
    out.push([list.readUInt32LE(2), crc32(list.subarray(6))])
  }
  return out
}

test('lists that carry a sum of themselves carry the right one', async () => {
  await video('ffv1', 'sums.mkv')
  const path = join(folder, 'sums.mkv')
  const before = sums(readFileSync(path))
  for (const [said, is] of before) expect(said).toBe(is)
  await tagRendered('ffv1', path, pose, size)
  const after = sums(readFileSync(path))
  for (const [said, is] of after) expect(said).toBe(is)
  expect(after).not.toEqual(before)
})

test('a head without room, or that is none, is left as it was', async () => {
  expect(() => withProjection(new Uint8Array(100), pose)).toThrow('not a Matroska file')
  const head = readFileSync(join(folder, 'a.mkv'))
  // There is room for a few such elements, not for any number.
  const filled = () =>
    Array.from({ length: 9 }).reduce<Uint8Array>((full) => withProjection(full, pose), head)
  expect(filled).toThrow('no room')
  expect(withProjection(head, pose)).toHaveLength(head.length)
  expect(() => withProjection(head.subarray(0, 120), pose)).toThrow('no list of tracks')
  writeFileSync(join(folder, 'none.mkv'), Buffer.alloc(100))
  await expect(tagRendered('ffv1', join(folder, 'none.mkv'), pose, size)).rejects.toThrow(
    'Render PNG pictures',
  )
})

test('a picture says so in its XMP, once, and is the same picture', async () => {
  const plain = await sharp(Buffer.from(frames[0]!.data as Uint8Array), { raw: { ...size, channels: 3 } }).png().toBuffer() // prettier-ignore
  const tagged = pngWithXmp(plain, xmpOf(pose, size))
  const { xmp } = await sharp(tagged).metadata()
  expect(poseOfXmp(xmp!.toString('utf8'))).toEqual(pose)
  expect(await sharp(tagged).raw().toBuffer()).toEqual(await sharp(plain).raw().toBuffer())
  expect(pngWithXmp(tagged, xmpOf(UPRIGHT, size))).toBe(tagged)
  const path = join(folder, 'one.png')
  writeFileSync(path, plain)
  await tagRendered('png', path, pose, size)
  expect(readFileSync(path)).toEqual(tagged)
})

test('numbered pictures are asked too', async () => {
  const pattern = await writePngSequence(join(folder, 'run'), frames)
  const input = { kind: 'sequence', pattern, startNumber: 1001, frameRate: rate, shownName: 'run' } as const
  expect((await probeMedia(input)).sphere).toBeNull()
  await tagRendered('png', pattern.replace(/%0?\d*d/, '1001'), pose, size)
  expect((await probeMedia(input)).sphere).toEqual(pose)
})

test('what shows a part of the sphere, or is mapped otherwise, is none; a pose out of range is none either', () => {
  expect(poseOfXmp('<x GPano:ProjectionType="cylindrical"/>')).toBeNull()
  expect(poseOfXmp('')).toBeNull()
  const part = xmpOf(pose, size).replace(
    'CroppedAreaImageHeightPixels="32"',
    'CroppedAreaImageHeightPixels="20"',
  )
  expect(poseOfXmp(part)).toBeNull()
  // As elements instead of attributes.
  expect(poseOfXmp('<GPano:ProjectionType>equirectangular</GPano:ProjectionType><GPano:PoseHeadingDegrees>12.5</GPano:PoseHeadingDegrees>')).toEqual({ ...UPRIGHT, yawDeg: 12.5 }) // prettier-ignore
  expect(poseOfXmp('<x GPano:ProjectionType="equirectangular" GPano:PosePitchDegrees="1e9"/>')).toEqual(
    UPRIGHT,
  )
  expect(poseOfStream([{ side_data_type: 'Spherical Mapping', projection: 'cubemap' }])).toBeNull()
  expect(poseOfStream([{ rotation: 90 }, { side_data_type: 'Spherical Mapping', projection: 'equirectangular', yaw: 7 }])).toEqual({ ...UPRIGHT, yawDeg: 7 }) // prettier-ignore
  expect(poseOfStream(undefined)).toBeNull()
})
