import { crc32, deflateSync } from 'node:zlib'
import { mkdtempSync, rmSync, statSync, truncateSync, writeFileSync, copyFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import type { Samples } from '../../core/image/samples'
import { ffmpeg, patternFrame, writePngSequence } from '../../tests/media'
import { decodeFrames } from './decode.server'
import { encodeFrames } from './encode.server'
import { MediaError } from './mediaError'
import { probeMedia, type MediaInput } from './probe.server'
import { pictureName } from './picture.server'
import { listSequence, requireAlike } from './sequence.server'

const rate = { num: 24, den: 1 }
let folder: string
beforeAll(() => (folder = mkdtempSync(join(tmpdir(), 'media-'))))
afterAll(() => rmSync(folder, { recursive: true }))

const video = (name: string): MediaInput => ({ kind: 'video', path: join(folder, name), shownName: name })

async function decodeAll(input: MediaInput): Promise<Samples[]> {
  const frames: Samples[] = []
  for await (const frame of decodeFrames(input, await probeMedia(input))) frames.push(frame)
  return frames
}

async function refusal(work: Promise<unknown>): Promise<MediaError> {
  const cause: unknown = await work.then(
    () => null,
    (error: unknown) => error,
  )
  expect(cause).toBeInstanceOf(MediaError)
  return cause as MediaError
}

test.each([
  ['png', 3, 8],
  ['png', 4, 8],
  ['png', 3, 16],
  ['png', 4, 16],
  ['ffv1', 3, 8],
  ['ffv1', 4, 8],
  ['ffv1', 3, 16],
  ['ffv1', 4, 16],
] as const)('%s keeps every bit of %i channels at %i bits', async (format, channels, bitDepth) => {
  const frames = [0, 1, 2].map((i) => patternFrame(34, 22, channels, bitDepth, i))
  const name = `${format}-${channels}-${bitDepth}`
  let input: MediaInput
  if (format === 'png') {
    const pattern = await writePngSequence(join(folder, name), frames)
    input = { kind: 'sequence', pattern, startNumber: 1001, frameRate: rate, shownName: name }
  } else {
    const sink = encodeFrames({
      format,
      path: join(folder, `${name}.mkv`),
      startNumber: 0,
      width: 34,
      height: 22,
      channels,
      bitDepth,
      frameRate: rate,
    })
    for (const frame of frames) await sink.write(frame)
    await sink.finish()
    input = video(`${name}.mkv`)
  }
  expect(await probeMedia(input)).toMatchObject({
    width: 34,
    height: 22,
    channels,
    bitDepth,
    frameRate: rate,
  })
  expect(await decodeAll(input)).toEqual(frames)
})

test.each([
  [2, 2, 3, 8],
  [7, 2, 3, 8],
  [2, 9, 4, 8],
  [2, 3, 4, 16],
] as const)(
  'ffv1 keeps every bit of a picture of %i × %i px, %i channels, %i bits',
  async (width, height, channels, bitDepth) => {
    const frames = [0, 1].map((i) => patternFrame(width, height, channels, bitDepth, i))
    const name = `small-${width}-${height}-${channels}-${bitDepth}.mkv`
    const sink = encodeFrames({
      format: 'ffv1',
      path: join(folder, name),
      startNumber: 0,
      width,
      height,
      channels,
      bitDepth,
      frameRate: rate,
    })
    for (const frame of frames) await sink.write(frame)
    await sink.finish()
    expect(await decodeAll(video(name))).toEqual(frames)
  },
)

test('a picture of 1 px a side is refused in words: the encoder would write it black', () => {
  const target = {
    format: 'ffv1',
    path: join(folder, 'thin.mkv'),
    startNumber: 0,
    width: 1,
    height: 5,
    channels: 3,
    bitDepth: 8,
    frameRate: rate,
  } as const
  expect(() => encodeFrames(target)).toThrow(
    /FFV1 cannot hold a picture that is 1 px wide or high. Choose PNG/,
  )
})

describe('footage as phones and other programs write it', () => {
  const source = (seconds: number) => ['-f', 'lavfi', '-i', `testsrc2=s=64x48:r=24:d=${seconds}`] as const

  test.each([
    [90, 48, 64],
    [180, 64, 48],
    [270, 48, 64],
  ])('turned by %i degrees it comes in as it is to be seen', async (turn, width, height) => {
    ffmpeg(...source(0.5), '-c:v', 'libx264', '-pix_fmt', 'yuv444p', '-qp', '0', join(folder, 'flat.mp4'))
    ffmpeg(
      '-i',
      join(folder, 'flat.mp4'),
      '-metadata:s:v:0',
      `rotate=${turn}`,
      '-c',
      'copy',
      join(folder, `turned${turn}.mp4`),
    )
    const input = video(`turned${turn}.mp4`)
    expect(await probeMedia(input)).toMatchObject({ width, height })
    const [[flat], [turned]] = [await decodeAll(video('flat.mp4')), await decodeAll(input)]
    // Counter-clockwise, as display matrices count: at 90 degrees the upper right corner comes to the upper left.
    const at = (frame: Samples, x: number, y: number) => [
      ...frame.data.slice((y * frame.width + x) * 3, (y * frame.width + x) * 3 + 3),
    ]
    const corner = turn === 90 ? [63, 0] : turn === 180 ? [63, 47] : [0, 47]
    at(turned!, 0, 0).forEach((value, c) =>
      expect(Math.abs(value - at(flat!, corner[0]!, corner[1]!)[c]!)).toBeLessThan(3),
    )
  })

  test('trimmed without being written again, it has the frames that are left', async () => {
    ffmpeg(...source(2), '-c:v', 'libx264', '-g', '48', join(folder, 'whole.mp4'))
    ffmpeg('-ss', '0.5', '-i', join(folder, 'whole.mp4'), '-c', 'copy', join(folder, 'trimmed.mp4'))
    const frames = await decodeAll(video('trimmed.mp4'))
    expect(frames.length).toBeGreaterThanOrEqual(35)
    expect(frames.length).toBeLessThan(48)
  })

  test('beginning a little before 0, and at a rate that varies, it comes in whole', async () => {
    ffmpeg(
      ...source(1),
      '-c:v',
      'libx264',
      '-bf',
      '2',
      '-output_ts_offset',
      '-0.05',
      '-avoid_negative_ts',
      'disabled',
      join(folder, 'early.mp4'),
    )
    expect((await decodeAll(video('early.mp4'))).length).toBeGreaterThanOrEqual(22)
    // Every third frame is left out: the others keep their times.
    ffmpeg(
      ...source(2),
      '-vf',
      "select='mod(n,3)'",
      '-fps_mode',
      'vfr',
      '-c:v',
      'ffv1',
      join(folder, 'varying.mkv'),
    )
    expect(await decodeAll(video('varying.mkv'))).toHaveLength(32)
  })

  test('pictures that could have alpha, and have none, have three channels; a palette is colours', async () => {
    const pixels = { raw: { width: 8, height: 6, channels: 3 as const } }
    const flat = Buffer.from(Array.from({ length: 8 * 6 * 3 }, (_, i) => [200, 90, 30][i % 3]!))
    for (const [ending, made] of [
      ['webp', sharp(flat, pixels).webp({ lossless: true })],
      ['png', sharp(flat, pixels).png({ palette: true })],
    ] as const) {
      for (const number of [1001, 1002]) await made.clone().toFile(join(folder, `opaque.${number}.${ending}`))
      const pattern = join(folder, `opaque.%04d.${ending}`)
      const input: MediaInput = {
        kind: 'sequence',
        pattern,
        startNumber: 1001,
        frameRate: rate,
        shownName: 'opaque',
      }
      const shape = await probeMedia(input)
      expect(shape).toMatchObject({ channels: 3, bitDepth: 8 })
      await requireAlike(pattern, 1001, ['a', 'b'], shape)
      const frames = await decodeAll(input)
      expect(frames).toHaveLength(2)
      expect([...frames[0]!.data.slice(0, 3)]).toEqual([200, 90, 30])
    }
  })
})

test('PNG pictures written here are read alike by an independent library', async () => {
  const frame = patternFrame(20, 14, 3, 16, 7)
  await writePngSequence(join(folder, 'independent'), [frame])
  const read = await sharp(join(folder, 'independent', 'shot.1001.png'))
    .toColourspace('rgb16')
    .raw({ depth: 'ushort' })
    .toBuffer()
  expect(new Uint16Array(read.buffer, read.byteOffset, read.length / 2)).toEqual(frame.data)
})

// SMPTE RP 219, 75 % yellow at 8 bits: Y' 168, C'b 44, C'r 136 (from memory); with the matrix of
// ITU-R BT.709-6, item 3, that is R' = G' = 0.75, B' = 0. With the Rec. 601 matrix green would be 13 higher.
test('high-definition luma-chroma footage is converted with the Rec. 709 matrix', async () => {
  const plane = (value: number) => Buffer.alloc(1280 * 720, value)
  writeFileSync(join(folder, 'yellow.yuv'), Buffer.concat([plane(168), plane(44), plane(136)]))
  ffmpeg(
    '-f',
    'rawvideo',
    '-pix_fmt',
    'yuv444p',
    '-s',
    '1280x720',
    '-r',
    '24',
    '-i',
    join(folder, 'yellow.yuv'),
    '-c:v',
    'ffv1',
    join(folder, 'yellow.mkv'),
  )
  const [frame] = await decodeAll(video('yellow.mkv'))
  const [r, g, b] = frame!.data
  for (const [value, wanted] of [
    [r, 191],
    [g, 191],
    [b, 0],
  ] as const)
    expect(Math.abs(value! - wanted)).toBeLessThanOrEqual(1)
})

test('rates are fractions and 10-bit footage becomes 16-bit samples', async () => {
  ffmpeg(
    '-f',
    'lavfi',
    '-i',
    'testsrc2=s=64x48:r=30000/1001:d=0.4',
    '-pix_fmt',
    'yuv420p10le',
    '-c:v',
    'ffv1',
    join(folder, 'ten.mkv'),
  )
  expect(await probeMedia(video('ten.mkv'))).toMatchObject({
    frameRate: { num: 30000, den: 1001 },
    bitDepth: 16,
    isYuv: true,
  })
})

describe('footage that cannot be used is refused by name', () => {
  test('a text file renamed .mp4', async () => {
    writeFileSync(join(folder, 'notes.mp4'), 'Dear diary, this is not a film.\n'.repeat(200))
    expect((await refusal(probeMedia(video('notes.mp4')))).message).toMatch(
      /notes\.mp4 holds no picture that can be read/,
    )
  })

  test('a list that points at other files', async () => {
    writeFileSync(
      join(folder, 'list.mp4'),
      '#EXTM3U\n#EXT-X-VERSION:3\n#EXTINF:10,\nfile:///etc/passwd\n#EXT-X-ENDLIST\n',
    )
    expect((await refusal(probeMedia(video('list.mp4')))).code).toMatch(/unsupported|unreadable/)
  })

  test('a video that is cut off', async () => {
    ffmpeg('-f', 'lavfi', '-i', 'testsrc2=s=160x120:r=24:d=2', '-c:v', 'ffv1', join(folder, 'cut.mkv'))
    truncateSync(join(folder, 'cut.mkv'), Math.floor(statSync(join(folder, 'cut.mkv')).size * 0.6))
    const error = await refusal(decodeAll(video('cut.mkv')))
    expect(error.code).toBe('damaged')
    expect(error.message).toMatch(
      /cut\.mkv is damaged or cut off.*: \d+ of 48 frames can be read.*Nothing was brought in/,
    )
  })

  test('a cut-off MP4 whose index is gone', async () => {
    ffmpeg('-f', 'lavfi', '-i', 'testsrc2=s=160x120:r=24:d=2', '-c:v', 'libx264', join(folder, 'cut.mp4'))
    truncateSync(join(folder, 'cut.mp4'), Math.floor(statSync(join(folder, 'cut.mp4')).size * 0.6))
    expect((await refusal(probeMedia(video('cut.mp4')))).message).toMatch(
      /cut\.mp4 is cut off: its index is missing/,
    )
  })

  test('a picture of 20000 × 20000 px', async () => {
    writeFileSync(join(folder, 'huge.0001.png'), pngOfOneRow(20_000, 20_000))
    const input: MediaInput = {
      kind: 'sequence',
      pattern: join(folder, 'huge.%04d.png'),
      startNumber: 1,
      frameRate: rate,
      shownName: 'huge.0001.png',
    }
    expect(await refusal(probeMedia(input))).toMatchObject({
      code: 'too-large',
      message: expect.stringMatching(/huge\.0001\.png is too large.*Scale it down/),
    })
  })

  test('floating-point pictures', async () => {
    ffmpeg(
      '-f',
      'lavfi',
      '-i',
      'testsrc2=s=32x32:d=0.04',
      '-pix_fmt',
      'gbrpf32le',
      '-c:v',
      'exr',
      join(folder, 'float.%04d.exr'),
    )
    const input: MediaInput = {
      kind: 'sequence',
      pattern: join(folder, 'float.%04d.exr'),
      startNumber: 1,
      frameRate: rate,
      shownName: 'float.0001.exr',
    }
    expect((await refusal(probeMedia(input))).message).toMatch(
      /floating-point pictures, which are not read yet/,
    )
  })

  test('pictures of different sizes and depths', async () => {
    const pattern = await writePngSequence(
      join(folder, 'uneven'),
      [0, 1, 2].map((i) => patternFrame(32, 24, 3, 8, i)),
    )
    const input: MediaInput = {
      kind: 'sequence',
      pattern,
      startNumber: 1001,
      frameRate: rate,
      shownName: 'shot',
    }
    const shape = await probeMedia(input)
    const names = ['shot.1001.png', 'shot.1002.png', 'shot.1003.png']
    await expect(requireAlike(pattern, 1001, names, shape)).resolves.toBeUndefined()
    await writePngSequence(join(folder, 'uneven'), [patternFrame(32, 24, 3, 16, 1)], 1003)
    expect((await refusal(requireAlike(pattern, 1001, names, shape))).message).toMatch(
      /shot\.1003\.png has 3 channels at 16 bits/,
    )
    await writePngSequence(join(folder, 'uneven'), [patternFrame(30, 24, 3, 8, 1)], 1002)
    expect((await refusal(requireAlike(pattern, 1001, names, shape))).message).toMatch(
      /shot\.1002\.png is 30 × 24 px, shot\.1001\.png is 32 × 24 px/,
    )
  })

  test('numbering with a hole, and a pattern that matches nothing', async () => {
    const pattern = await writePngSequence(
      join(folder, 'hole'),
      [0, 1].map((i) => patternFrame(8, 8, 3, 8, i)),
    )
    expect(await listSequence(pattern)).toEqual({ startNumber: 1001, count: 2 })
    copyFileSync(join(folder, 'hole', 'shot.1001.png'), join(folder, 'hole', 'shot.1005.png'))
    expect((await refusal(listSequence(pattern))).message).toMatch(/hole: shot\.1003\.png is missing/)
    expect((await refusal(listSequence(join(folder, 'hole', 'other.%04d.png')))).message).toMatch(
      /No picture matches/,
    )
  })
})

test('a decoder that is stopped ends at once', async () => {
  ffmpeg('-f', 'lavfi', '-i', 'testsrc2=s=320x240:r=24:d=5', '-c:v', 'ffv1', join(folder, 'long.mkv'))
  const stop = new AbortController()
  const input = video('long.mkv')
  const run = (async () => {
    for await (const _frame of decodeFrames(input, await probeMedia(input), stop.signal)) stop.abort()
  })()
  expect((await refusal(run)).code).toBe('stopped')
})

test('names of pictures follow their pattern', () => {
  expect(pictureName('/a/shot.%04d.png', 17)).toBe('/a/shot.0017.png')
  expect(pictureName('%d.png', 17)).toBe('17.png')
})

/** A PNG that says its size and has one row of it: whoever looks before decoding refuses it. Source: PNG, W3C 2003, 5.3 and 11.2. */
function pngOfOneRow(width: number, height: number): Buffer {
  const chunk = (type: string, data: Buffer) => {
    const [body, length, check] = [Buffer.concat([Buffer.from(type), data]), Buffer.alloc(4), Buffer.alloc(4)]
    length.writeUInt32BE(data.length)
    check.writeUInt32BE(crc32(body))
    return Buffer.concat([length, body, check])
  }
  const header = Buffer.alloc(13)
  header.writeUInt32BE(width, 0)
  header.writeUInt32BE(height, 4)
  header.set([8, 2, 0, 0, 0], 8)
  const row = deflateSync(Buffer.alloc(1 + 3 * width))
  const signature = Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a])
  return Buffer.concat([signature, chunk('IHDR', header), chunk('IDAT', row), chunk('IEND', Buffer.alloc(0))])
}
