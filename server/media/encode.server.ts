/** Encodes finished frames: numbered PNG, FFV1, VP9. */
import { once } from 'node:events'
import type { Samples } from '../../core/image/samples'
import type { FrameRate } from '../../core/time'
import { reasonIn, startMedia } from './ffmpeg.server'
import { refusalOf, type RenderFormat } from './formats'
import { MediaError } from './mediaError'

export interface EncodeTarget {
  readonly format: RenderFormat
  /** A file, or for PNG a printf pattern. */
  readonly path: string
  /** Number of the first picture of a pattern. */
  readonly startNumber: number
  readonly width: number
  readonly height: number
  readonly channels: number
  readonly bitDepth: 8 | 16
  readonly frameRate: FrameRate
  /** The container, where the path's ending does not say it. */
  readonly container?: 'nut' | 'matroska' | 'webm'
}

export interface FrameSink {
  /** Takes a frame; waits while the encoder is busy. @throws MediaError when it has failed. */
  write(frame: Samples): Promise<void>
  /** Settles when everything is on disk. */
  finish(): Promise<void>
  abort(): void
}

export function encodeFrames(target: EncodeTarget, signal?: AbortSignal): FrameSink {
  const { format, width, height, channels, bitDepth, frameRate } = target
  const refusal = refusalOf(format, width, height)
  if (refusal) throw new MediaError('cannot-write', refusal)
  const pixelFormat =
    bitDepth === 8 ? (channels === 3 ? 'rgb24' : 'rgba') : channels === 3 ? 'rgb48le' : 'rgba64le'
  const process = startMedia(
    'ffmpeg',
    [
      '-v',
      'error',
      '-nostdin',
      '-y',
      '-f',
      'rawvideo',
      '-pix_fmt',
      pixelFormat,
      '-s',
      `${target.width}x${target.height}`,
      '-framerate',
      `${frameRate.num}/${frameRate.den}`,
      '-i',
      'pipe:0',
      ...codecArguments(target),
      target.path,
    ],
    { signal },
  )
  process.stdout.resume()
  let hasEnded = false
  void process.ended.then(() => (hasEnded = true))

  async function failure(): Promise<MediaError> {
    const { stderr } = await process.ended
    if (signal?.aborted) return new MediaError('stopped', 'Stopped.')
    return new MediaError(
      'cannot-write',
      `The frames could not be written (${reasonIn(stderr)}). Check the free space and the folder.`,
    )
  }

  return {
    async write(frame) {
      if (hasEnded) throw await failure()
      process.alive()
      const bytes = Buffer.from(frame.data.buffer, frame.data.byteOffset, frame.data.byteLength)
      if (!process.stdin.write(bytes)) await Promise.race([once(process.stdin, 'drain'), process.ended])
    },
    async finish() {
      process.stdin.end()
      const { code } = await process.ended
      if (code !== 0) throw await failure()
    },
    abort: () => process.kill(),
  }
}

const MIN_SLICED_PX = 16

function codecArguments({
  format,
  width,
  height,
  channels,
  bitDepth,
  startNumber,
  container,
}: EncodeTarget): string[] {
  const into = container ? ['-f', container] : []
  switch (format) {
    case 'png':
      // Filter "sub" and the lowest level: half again the size of the smallest file, in a fraction of the time.
      return [
        '-c:v',
        'png',
        '-pred',
        'sub',
        '-compression_level',
        '1',
        '-pix_fmt',
        bitDepth === 8 ? (channels === 3 ? 'rgb24' : 'rgba') : channels === 3 ? 'rgb48be' : 'rgba64be',
        '-f',
        'image2',
        '-start_number',
        String(startNumber),
      ]
    case 'ffv1':
      return [
        '-c:v',
        'ffv1',
        '-level',
        '3',
        '-g',
        '1',
        '-slices',
        // Slices of a few px come out wrong.
        Math.min(width, height) < MIN_SLICED_PX ? '1' : '4',
        '-slicecrc',
        '1',
        '-pix_fmt',
        bitDepth === 8 ? (channels === 3 ? 'bgr0' : 'bgra') : channels === 3 ? 'gbrp16le' : 'rgba64le',
        ...into,
      ]
    case 'vp9':
      return [
        '-vf',
        'scale=out_color_matrix=bt709:out_range=tv:flags=accurate_rnd+full_chroma_int',
        '-pix_fmt',
        'yuv420p',
        '-colorspace',
        'bt709',
        '-color_primaries',
        'bt709',
        '-color_trc',
        'bt709',
        '-color_range',
        'tv',
        '-c:v',
        'libvpx-vp9',
        '-crf',
        '20',
        '-b:v',
        '0',
        '-deadline',
        'good',
        '-cpu-used',
        '4',
        '-row-mt',
        '1',
        '-threads',
        '2',
        ...into,
      ]
  }
}
