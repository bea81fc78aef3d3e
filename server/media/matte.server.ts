/** Mattes made elsewhere: numbered pictures, one for each frame, white where they cover. */
import { readFile } from 'node:fs/promises'
import { basename, extname } from 'node:path'
import type { Rect } from '../../core/image/rect'
import type { ReadMatte } from '../../core/matte/pictureMatte'
import { ownEnd, startMedia } from './ffmpeg.server'
import { MediaError } from './mediaError'

/** A picture that says it is larger than any plate is not decoded. */
const MAX_PIXELS = 16384 * 16384

const OFF_BY = 288 // of 65535: hardly more than an 8-bit step, by which its white falls short

const DECODERS: Readonly<Record<string, string>> = {
  '.png': 'png',
  '.tif': 'tiff',
  '.tiff': 'tiff',
  '.exr': 'exr',
}

/** Coverage of a whole picture as 16-bit samples. */
export interface MattePicture {
  readonly width: number
  readonly height: number
  readonly data: Uint16Array
}

/**
 * Reads a PNG, TIFF or EXR picture as coverage; colour counts by its luma, floats are limited to 0 to 1.
 * @param mostPixels  A picture that says it has more is not decoded.
 * @throws MediaError 'unreadable' in words.
 */
export async function readMattePicture(
  path: string,
  mostPixels = MAX_PIXELS,
  signal?: AbortSignal,
  shownName = basename(path),
): Promise<MattePicture> {
  const decoder = DECODERS[extname(path).toLowerCase()]
  const unreadable = (cause?: string) =>
    new MediaError(
      'unreadable',
      `${shownName} cannot be read as a matte. Numbered PNG, TIFF or EXR pictures can, of ${mostPixels.toLocaleString('en')} pixels at most.`,
      { cause },
    )
  if (!decoder) throw unreadable()
  // The decoder is named, so that what is inside cannot choose another.
  const input = [
    '-protocol_whitelist',
    'file,pipe',
    '-max_pixels',
    String(mostPixels),
    '-f',
    'image2',
    '-pattern_type',
    'none',
    '-c:v',
    decoder,
    '-i',
    path,
  ]
  const output = ['-frames:v', '1', '-pix_fmt', 'gray16be', '-c:v', 'pgm', '-f', 'image2pipe', '-']
  const process = startMedia('ffmpeg', ['-v', 'error', ...input, ...output], { silenceMs: 30_000, signal })
  process.stdin.end()
  const chunks: Buffer[] = []
  for await (const chunk of process.stdout) chunks.push(chunk as Buffer)
  const { code, stderr } = await ownEnd(process)
  if (code !== 0 || chunks.length === 0) throw unreadable(stderr)
  const picture = parsePgm(Buffer.concat(chunks))
  // The way from 8-bit colour to 16-bit grey is off by a step: black is no coverage, white is all of it.
  const { data } = picture
  for (let i = 0; i < data.length; i++) {
    const value = data[i]!
    if (value < OFF_BY) data[i] = 0
    else if (value > 65535 - OFF_BY) data[i] = 65535
  }
  return picture
}

/** A portable greymap of 16 bits, as it is stored. Format: netpbm's pgm. */
export function parsePgm(bytes: Buffer): MattePicture {
  const head = /^P5\s+(\d+)\s+(\d+)\s+(\d+)\s/.exec(bytes.subarray(0, 64).toString('latin1'))
  if (head?.[3] !== '65535') throw new MediaError('unreadable', 'This matte is not a 16-bit greymap.')
  const [width, height] = [Number(head[1]), Number(head[2])]
  const from = head[0].length
  if (bytes.length < from + width * height * 2) throw new MediaError('truncated', 'This matte is cut off.')
  const data = new Uint16Array(width * height)
  for (let i = 0; i < data.length; i++) data[i] = bytes.readUInt16BE(from + 2 * i)
  return { width, height, data }
}

export function pgmOf({ width, height, data }: MattePicture): Buffer {
  const body = Buffer.from(
    data.buffer.slice(data.byteOffset, data.byteOffset + data.byteLength) as ArrayBuffer,
  )
  return Buffer.concat([Buffer.from(`P5\n${width} ${height}\n65535\n`), body.swap16()])
}

/** Cut to what it covers; null where it covers nothing. */
export function cutMatte({ width, height, data }: MattePicture): ReadMatte | null {
  let [left, top, right, bottom] = [width, height, -1, -1]
  for (let row = 0; row < height; row++) {
    for (let col = 0; col < width; col++) {
      if (data[row * width + col] === 0) continue
      left = Math.min(left, col)
      right = Math.max(right, col)
      top = Math.min(top, row)
      bottom = Math.max(bottom, row)
    }
  }
  if (right < 0) return null
  const rect: Rect = { col: left, row: top, width: right - left + 1, height: bottom - top + 1 }
  const coverage = new Float32Array(rect.width * rect.height)
  for (let row = 0; row < rect.height; row++) {
    for (let col = 0; col < rect.width; col++)
      coverage[row * rect.width + col] = data[(top + row) * width + left + col]! / 65535
  }
  return { rect, coverage }
}

/** The file of a pattern for a frame: `%d`, `%04d` or `####` stand for the number. */
export const matteFile = (pattern: string, frame: number): string =>
  pattern.replace(/%0?(\d*)d|(#+)/, (_all, width: string | undefined, marks: string | undefined) =>
    String(frame).padStart(marks ? marks.length : Number(width ?? 0), '0'),
  )

/** Reads a stored greymap; null where there is none for the frame. */
export async function readStoredMatte(path: string): Promise<ReadMatte | null> {
  const bytes = await readFile(path).catch((cause: NodeJS.ErrnoException) => {
    if (cause.code === 'ENOENT') return null
    throw cause
  })
  return bytes && cutMatte(parsePgm(bytes))
}
