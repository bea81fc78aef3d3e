/** Footage that is damaged, as decoders take it in silently: made whole with ffmpeg, then damaged at known places. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { ffmpeg } from '../../tests/media'
import { indexWords, plainWords } from './damage.server'
import { decodeFrames } from './decode.server'
import { MediaError } from './mediaError'
import { probeMedia, type MediaInput } from './probe.server'

let folder: string
beforeAll(() => void (folder = mkdtempSync(join(tmpdir(), 'fillagrant-damage-'))))
afterAll(() => rmSync(folder, { recursive: true }))

const film = (name: string, ...args: string[]): string => {
  const path = join(folder, name)
  ffmpeg('-f', 'lavfi', '-i', 'testsrc2=size=160x120:rate=24', ...args, path)
  return path
}

/** Flips bits in the middle of what follows a place. */
function damage(path: string, at: number): void {
  const bytes = readFileSync(path)
  bytes[Math.floor(at)]! ^= 0x55
  writeFileSync(path, bytes)
}

const video = (path: string): MediaInput => ({ kind: 'video', path, shownName: 'street.mkv' })

async function count(input: MediaInput, takesDamaged = false): Promise<number> {
  let frames = 0
  for await (const _ of decodeFrames(input, await probeMedia(input), undefined, takesDamaged)) frames++
  return frames
}

test('FFV1 whose slice checksums are wrong: the frames are named, and can be taken in all the same', async () => {
  const path = film('a.mkv', '-frames:v', '12', '-c:v', 'ffv1', '-level', '3', '-g', '1', '-slicecrc', '1')
  expect(await count(video(path))).toBe(12)
  // Frames lie one after the other, all of about one size.
  const { length } = readFileSync(path)
  damage(path, (length * 3.5) / 12)
  damage(path, (length * 7.5) / 12)
  await expect(count(video(path))).rejects.toMatchObject({
    code: 'damaged',
    message: expect.stringMatching(
      /^street\.mkv is damaged in 2 of its 12 frames: number [45], [89]\. Nothing was brought in\./,
    ),
    damage: { count: 12, indices: [expect.any(Number), expect.any(Number)] },
  })
  expect(await count(video(path), true)).toBe(12)
})

test('H.264 with flipped bits is refused, with the frames', async () => {
  const path = film('b.mp4', '-frames:v', '24', '-c:v', 'libx264', '-g', '6', '-pix_fmt', 'yuv420p')
  expect(await count(video(path))).toBe(24)
  for (const share of [0.35, 0.4, 0.45, 0.5]) damage(path, readFileSync(path).length * share)
  await expect(count(video(path))).rejects.toMatchObject({
    code: 'damaged',
    message: expect.stringMatching(/damaged in \d+ of its 24 frames/),
  })
  expect(await count(video(path), true)).toBeGreaterThanOrEqual(20)
})

test('a Matroska file that ends before its end', async () => {
  const path = film('c.mkv', '-frames:v', '12', '-c:v', 'ffv1', '-g', '1')
  const bytes = readFileSync(path)
  writeFileSync(path, bytes.subarray(0, bytes.length * 0.97))
  await expect(count(video(path))).rejects.toMatchObject({
    code: 'damaged',
    message: expect.stringMatching(
      /damaged or cut off \(file ended prematurely\): 11 of 12 frames can be read/,
    ),
  })
})

test('half a JPEG in a run is named as the user calls it', async () => {
  const pattern = film('d%04d.jpg', '-frames:v', '4', '-start_number', '0')
  const half = readFileSync(join(folder, 'd0002.jpg'))
  writeFileSync(join(folder, 'd0002.jpg'), half.subarray(0, half.length / 2))
  const input: MediaInput = { kind: 'sequence', pattern, startNumber: 0, frameRate: { num: 24, den: 1 }, shownName: 'v.0001.jpg', shownNames: [1, 2, 3, 4].map((n) => `v.000${n}.jpg`) } // prettier-ignore
  await expect(count(input)).rejects.toMatchObject({
    code: 'damaged',
    message: expect.stringMatching(/^v\.0003\.jpg: damaged\./),
  })
  expect(await count(input, true)).toBe(4)
})

test('a PNG whose checksum is wrong is named', async () => {
  const pattern = film('e%04d.png', '-frames:v', '4', '-start_number', '0')
  damage(join(folder, 'e0002.png'), readFileSync(join(folder, 'e0002.png')).length / 2)
  const input: MediaInput = { kind: 'sequence', pattern, startNumber: 0, frameRate: { num: 24, den: 1 }, shownName: 'v.0001.png', shownNames: [1, 2, 3, 4].map((n) => `v.000${n}.png`) } // prettier-ignore
  await expect(count(input)).rejects.toThrow(/v\.0003\.png/)
})

test('words for people', () => {
  expect(plainWords('[ffv1 @ 0x55a295bb0f40] slice CRC mismatch 56071BEB!')).toBe(
    'slice CRC mismatch 56071BEB!',
  )
  expect(indexWords([0, 1, 2, 5, 7, 8], (index) => String(1001 + index))).toBe('1001–1003, 1006, 1008–1009')
  expect(indexWords([0, 2, 4, 6, 8, 10, 12], String)).toBe('0, 2, 4, 6, 8, 10 and more')
})

test('a decoder that somebody else ends says nothing of the footage: it is begun anew, not called damaged', async () => {
  const path = join(folder, 'long.mkv')
  ffmpeg('-f', 'lavfi', '-i', 'testsrc2=size=640x360:rate=24', '-frames:v', '60', '-c:v', 'ffv1', path)
  const input = { kind: 'video', path, shownName: 'long.mkv' } as const
  const shape = await probeMedia(input)
  const read = async () => {
    for await (const frame of decodeFrames(input, shape)) {
      expect(frame.width).toBe(640)
      // Frames wait to be taken: it is not through with them yet.
      for (const pid of execFileSync('pgrep', ['-P', String(process.pid)], { encoding: 'utf8' })
        .trim()
        .split('\n')
        .map(Number))
        // prettier-ignore
        if (readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes(path)) process.kill(pid, 'SIGKILL')
    }
  }
  await expect(read()).rejects.toThrow('A media tool was ended from outside.')
  await expect(read()).rejects.not.toBeInstanceOf(MediaError)
})
