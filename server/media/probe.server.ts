/** What a file or a run of pictures holds, before it is decoded. */
import { open } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { z } from 'zod'
import type { BitDepth } from '../../core/image/samples'
import type { FrameRate } from '../../core/time'
import { runMedia, SAFE_INPUT } from './ffmpeg.server'
import { LIMITS } from './importPlan.server'
import { MediaError } from './mediaError'
import { pictureName, pictureShape } from './picture.server'
import { poseOfStream, type SpherePose } from './sphere.server'

/** How many frames a container says that it holds. */
export interface ExpectedFrames {
  readonly count: number
  /** Fewer frames mean that something is missing. Else only the decoder's own word does. */
  readonly isExact: boolean
}

export interface MediaShape {
  readonly width: number
  readonly height: number
  /** 3, or 4 with alpha. */
  readonly channels: 3 | 4
  readonly bitDepth: BitDepth
  readonly frameRate: FrameRate
  /** As the container says it; null where it does not. */
  readonly expectedFrames: ExpectedFrames | null
  /** True for luma-chroma footage, whose matrix must be known to turn it into RGB. */
  readonly isYuv: boolean
  readonly hasKnownMatrix: boolean
  /** Where it says of itself that it is all-round. */
  readonly sphere: SpherePose | null
}

/** A file, or a printf pattern of numbered pictures. */
export type MediaInput =
  | { readonly kind: 'video'; readonly path: string; readonly shownName: string }
  | {
      readonly kind: 'sequence'
      readonly pattern: string
      readonly startNumber: number
      readonly frameRate: FrameRate
      readonly shownName: string
      /** Of each picture, as the user calls it; where they are stored under other names. */
      readonly shownNames?: readonly string[]
    }

export const inputArguments = (input: MediaInput): string[] =>
  input.kind === 'video'
    ? [...SAFE_INPUT, '-max_pixels', String(LIMITS.pixels), '-i', input.path]
    : [
        ...SAFE_INPUT,
        '-f',
        'image2',
        '-max_pixels',
        String(LIMITS.pixels),
        '-framerate',
        `${input.frameRate.num}/${input.frameRate.den}`,
        '-start_number',
        String(input.startNumber),
        '-i',
        input.pattern,
      ]

const probeSchema = z.object({
  streams: z.array(
    z.object({
      width: z.number(),
      height: z.number(),
      pix_fmt: z.string().optional(),
      color_space: z.string().optional(),
      avg_frame_rate: z.string().optional(),
      r_frame_rate: z.string().optional(),
      nb_frames: z.string().optional(),
      duration: z.string().optional(),
      side_data_list: z.array(z.looseObject({ rotation: z.number().optional() })).optional(),
    }),
  ),
  format: z.object({ duration: z.string().optional(), format_name: z.string().optional() }).optional(),
})

/**
 * Reads size, depth and rate. Only the file's head is looked at.
 * @throws MediaError that names the file.
 */
export async function probeMedia(input: MediaInput, signal?: AbortSignal): Promise<MediaShape> {
  const name = input.shownName
  const { code, stdout, stderr } = await runMedia(
    'ffprobe',
    [
      '-v',
      'error',
      '-select_streams',
      'v:0',
      '-show_streams',
      '-show_format',
      '-of',
      'json',
      ...inputArguments(input),
    ],
    30_000,
    signal,
  )
  if (signal?.aborted) throw new MediaError('stopped', 'Stopped.')
  const parsed = code === 0 ? probeSchema.safeParse(JSON.parse(stdout)) : null
  const stream = parsed?.success ? parsed.data.streams[0] : undefined
  if (/Picture size \d+x\d+ is invalid/i.test(stderr)) throw tooLarge(name)
  if (!stream) {
    if (/Format not on whitelist|Protocol .* not on whitelist/i.test(stderr)) {
      throw new MediaError(
        'unsupported',
        `${name} points at other files or is of a kind that is not read here. Bring in the footage itself.`,
      )
    }
    if (/moov atom not found/i.test(stderr) && input.kind === 'video' && (await beginsLikeMov(input.path))) {
      throw new MediaError(
        'truncated',
        `${name} is cut off: its index is missing. Copy it again, or export it again from its source.`,
      )
    }
    throw new MediaError(
      'unreadable',
      `${name} holds no picture that can be read. Check that it is footage and copy it again.`,
    )
  }
  const { width, height } = turnedSize(stream)
  if (width > LIMITS.sidePx || height > LIMITS.sidePx || width * height > LIMITS.pixels)
    throw tooLarge(name, width, height)
  const pixelFormat = stream.pix_fmt ?? ''
  if (!pixelFormat || width < 1 || height < 1)
    throw new MediaError('unreadable', `${name} holds no picture that can be read. Copy it again.`)
  if (/f(16|32)(le|be)?$/.test(pixelFormat)) {
    throw new MediaError(
      'unsupported',
      `${name} holds floating-point pictures, which are not read yet. Export it with 8 or 16 bits for each sample.`,
    )
  }
  const isYuv = /^(yuv|nv|p0|p2|p4|y2|uyvy|yuyv)/.test(pixelFormat)
  const frameRate =
    input.kind === 'sequence'
      ? input.frameRate
      : (readRate(stream.avg_frame_rate) ?? readRate(stream.r_frame_rate))
  if (!frameRate)
    throw new MediaError(
      'unreadable',
      `${name} does not say how many frames a second it has. Export it again with a fixed rate.`,
    )
  const picture = input.kind === 'sequence' ? await pictureShape(firstPictureOf(input), name) : null
  return {
    width,
    height,
    channels: picture?.channels ?? channelsOf(pixelFormat),
    bitDepth: picture?.bitDepth ?? (depthOf(pixelFormat) > 8 ? 16 : 8),
    frameRate,
    expectedFrames: expectedFrames(stream, parsed?.data?.format, frameRate),
    isYuv,
    hasKnownMatrix: !['', 'unknown', 'reserved', 'gbr'].includes(stream.color_space ?? ''),
    sphere: picture?.sphere ?? poseOfStream(stream.side_data_list),
  }
}

type Stream = z.output<typeof probeSchema>['streams'][number]
type Container = z.output<typeof probeSchema>['format']

/** Phones write pictures as the sensor lies, and how they are to be turned: frames come turned from the decoder. */
function turnedSize({ width, height, side_data_list: sides }: Stream): { width: number; height: number } {
  const turn = sides?.find(({ rotation }) => rotation !== undefined)?.rotation ?? 0
  return Math.round(Math.abs(turn) / 90) % 2 === 1 ? { width: height, height: width } : { width, height }
}

/** How many frames there must be; where a rate may vary, it tells about how many. */
function expectedFrames(
  stream: Stream,
  container: Container,
  { num, den }: FrameRate,
): ExpectedFrames | null {
  // A file that was trimmed without being written again still holds what was cut away: its index counts that too.
  const mayBeTrimmed = /\b(mov|mp4)\b/.test(container?.format_name ?? '')
  if (stream.nb_frames) return { count: Number(stream.nb_frames), isExact: !mayBeTrimmed }
  const seconds = Number(stream.duration ?? container?.duration)
  return Number.isFinite(seconds) ? { count: Math.round((seconds * num) / den), isExact: false } : null
}

/** Files of the QuickTime family begin with a box of a known kind; text renamed to .mp4 does not. */
async function beginsLikeMov(path: string): Promise<boolean> {
  const handle = await open(path, 'r')
  try {
    const { buffer } = await handle.read(Buffer.alloc(8), 0, 8, 0)
    return ['ftyp', 'moov', 'mdat', 'wide', 'free', 'skip'].includes(buffer.toString('latin1', 4, 8))
  } finally {
    await handle.close()
  }
}

const tooLarge = (name: string, width?: number, height?: number) =>
  new MediaError(
    'too-large',
    `${name} is too large${width ? ` (${width} × ${height} px)` : ''}: at most ${LIMITS.sidePx} px a side and ${LIMITS.pixels / 1e6} million pixels. Scale it down and bring it in again.`,
  )

const firstPictureOf = ({ pattern, startNumber }: Extract<MediaInput, { kind: 'sequence' }>): string =>
  join(dirname(pattern), pictureName(basename(pattern), startNumber))

/** Samples of a pixel, from the name of its format. */
const channelsOf = (pixelFormat: string): 3 | 4 =>
  /^(rgba|bgra|argb|abgr|yuva|gbrap|ya8|ya16|ayuv)/.test(pixelFormat) ? 4 : 3

/** Bits of a sample, from the name of a pixel format: yuv420p10le has 10, rgb48be 16. */
function depthOf(pixelFormat: string): number {
  if (/^(rgb48|bgr48|rgba64|bgra64|ya16|gray16|p016|p216|p416)/.test(pixelFormat)) return 16
  const match = /(?:p|gray|gbrp|gbrap|y2|p0|p2|p4|x2rgb|x2bgr)(9|10|12|14|16)(le|be)$/.exec(pixelFormat)
  return match ? Number(match[1]) : 8
}

function readRate(text: string | undefined): FrameRate | null {
  const [num, den] = (text ?? '').split('/').map(Number)
  return num && den && num > 0 && den > 0 ? { num, den } : null
}
