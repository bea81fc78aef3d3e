/** Decodes footage to samples: RGB or RGBA, 8 or 16 bits, one frame after the other. */
import type { Samples } from '../../core/image/samples'
import { basename } from 'node:path'
import { log } from '../log.server'
import { ownEnd, startMedia } from './ffmpeg.server'
import {
  CHECKED,
  DamageError,
  findDamage,
  findDamageInRun,
  hasComplained,
  indexWords,
  type Damage,
} from './damage.server'
import { MediaError } from './mediaError'
import { pictureName } from './picture.server'
import { inputArguments, type MediaInput, type MediaShape } from './probe.server'

/** RGB samples pass through as they are; luma-chroma is converted at full precision and rounded once. */
const CONVERSION_FLAGS = 'accurate_rnd+full_chroma_int+full_chroma_inp+bitexact'

/**
 * Yields every frame in order. Ends the decoder when the caller stops early or `signal` says so.
 *
 * @param takesDamaged  Frames that the decoder complains about are yielded as it has made them, and nothing is said.
 * @throws DamageError when the decoder complains; MediaError when it fails, or the footage ends before its container says.
 * Memory: two frames.
 */
export async function* decodeFrames(
  input: MediaInput,
  shape: MediaShape,
  signal?: AbortSignal,
  takesDamaged = false,
): AsyncGenerator<Samples> {
  const { width, height, channels, bitDepth } = shape
  const pixelFormat =
    bitDepth === 8 ? (channels === 3 ? 'rgb24' : 'rgba') : channels === 3 ? 'rgb48le' : 'rgba64le'
  // Common practice: footage that does not name its matrix is Rec. 709 from 720 lines up, else Rec. 601.
  const matrix = shape.hasKnownMatrix ? 'auto' : height >= 720 ? 'bt709' : 'bt601'
  const filter = shape.isYuv ? ['-vf', `scale=in_color_matrix=${matrix}:flags=${CONVERSION_FLAGS}`] : []
  const process = startMedia(
    'ffmpeg',
    [
      '-v',
      'error',
      '-nostdin',
      ...(takesDamaged ? [] : ['-xerror', ...CHECKED]),
      ...inputArguments(input),
      '-map',
      '0:v:0',
      '-fps_mode',
      'passthrough',
      ...filter,
      '-f',
      'rawvideo',
      '-pix_fmt',
      pixelFormat,
      'pipe:1',
    ],
    { signal },
  )
  const frameBytes = width * height * channels * (bitDepth / 8)
  let frame = Buffer.alloc(frameBytes)
  let filled = 0
  let count = 0
  let isThrough = false
  try {
    for await (const chunk of process.stdout as AsyncIterable<Buffer>) {
      process.alive()
      let from = 0
      while (from < chunk.length) {
        const taken = chunk.copy(frame, filled, from)
        filled += taken
        from += taken
        if (filled < frameBytes) continue
        count++
        yield { width, height, channels, data: typed(frame, bitDepth) }
        frame = Buffer.alloc(frameBytes)
        filled = 0
      }
    }
    isThrough = true
  } finally {
    if (!isThrough) process.kill()
  }
  const { code, stderr } = await ownEnd(process)
  if (signal?.aborted) throw new MediaError('stopped', 'Stopped.')
  const name = input.shownName
  const expected = shape.expectedFrames
  const isBroken = filled > 0 || code !== 0
  // Durations are rounded: one frame is within that.
  const isDoubted = isBroken || hasComplained(stderr)
  const isShort = expected !== null && count < expected.count - 1 && (expected.isExact || isDoubted)
  if (isDoubted && !takesDamaged) {
    const damage = await damageOf(input, expected?.count ?? count, signal)
    if (damage.count > 0 && (input.kind === 'video' || damage.indices.length > 0)) {
      const most = expected?.count ?? null
      throw new DamageError(damageWords(input, damage, most), damage, isTakeable(input, damage.count, most))
    }
  }
  if (takesDamaged ? filled > 0 || (input.kind === 'sequence' && isShort) : isBroken || isShort) {
    log.info({ name, code, stderr: stderr.slice(0, 2000) }, 'footage could not be decoded to its end')
    const seen = expected === null ? `${count} frames` : `${count} of ${expected.count} frames`
    throw new MediaError(
      isShort || filled > 0 ? 'truncated' : 'unreadable',
      `${name} is damaged or cut off: ${seen} could be read. Nothing was brought in. Copy it again from its source.`,
    )
  }
  if (count === 0)
    throw new MediaError('unreadable', `${name} holds no frames. Copy it again from its source.`)
}

/** @param pictures  How many a run has. */
export const damageOf = (
  input: MediaInput,
  pictures: number | null,
  signal?: AbortSignal,
): Promise<Damage> =>
  input.kind === 'video' ? findDamage(input, signal) : findDamageInRun(input, pictures ?? 0, signal)

/** Whether what can be read of it makes a shot. */
export const isTakeable = (input: MediaInput, count: number, expected: number | null): boolean =>
  count > 0 && (input.kind === 'video' || count === expected)

function damageWords(input: MediaInput, { indices, count, words }: Damage, expected: number | null): string {
  const nameOf = (index: number): string =>
    input.kind === 'video' ? String(index + 1) : nameInRun(input, index)
  const where =
    indices.length === 0
      ? `${input.shownName} is damaged or cut off (${words.toLowerCase()}): ${expected === null ? count : `${count} of ${expected}`} frames can be read.`
      : input.kind === 'sequence'
        ? `${indexWords(indices, nameOf)}: damaged.`
        : `${input.shownName} is damaged in ${indices.length} of its ${count} frames: number ${indexWords(indices, nameOf)}.`
  // A picture that is missing altogether would move all that follow.
  return isTakeable(input, count, expected)
    ? `${where} Nothing was brought in. Copy it again from its source, or take it in as it is.`
    : `${where} Nothing was brought in. Copy it again from its source.`
}

/** As the user calls a picture of a run. */
const nameInRun = (
  { shownNames, pattern, startNumber }: Extract<MediaInput, { kind: 'sequence' }>,
  index: number,
): string => shownNames?.[index] ?? pictureName(basename(pattern), startNumber + index)

function typed(frame: Buffer, bitDepth: 8 | 16): Uint8Array | Uint16Array {
  return bitDepth === 8
    ? new Uint8Array(frame.buffer, frame.byteOffset, frame.length)
    : new Uint16Array(frame.buffer, frame.byteOffset, frame.length / 2)
}
