/** What of footage is damaged: decoders go on over it, and only complain. */
import { basename, dirname, join } from 'node:path'
import type { MediaProcess } from './ffmpeg.server'
import { ownEnd, startMedia } from './ffmpeg.server'
import { MediaError } from './mediaError'
import { isWholePicture, pictureName } from './picture.server'
import { inputArguments, type MediaInput } from './probe.server'

export interface Damage {
  /** Those that the decoder complained about, counted from 0. */
  readonly indices: readonly number[]
  /** How many frames there are at all, damaged ones too. */
  readonly count: number
  /** What it complained of where no frame is to blame, without what only machines read. */
  readonly words: string
}

/** Checksums are looked at where the kind of footage has them. */
export const CHECKED = ['-err_detect', 'crccheck'] as const

/**
 * Decodes once more, slowly: one thread, so that complaints come right before the frame that they are about.
 * @throws MediaError 'stopped'.
 */
export async function findDamage(input: MediaInput, signal?: AbortSignal): Promise<Damage> {
  let count = 0
  let rest = ''
  let isBlamed = false
  let words = ''
  const indices: number[] = []
  const hear = (line: string, process: MediaProcess): void => {
    if (/^\[Parsed_showinfo\w* @ \w+\] n:/.test(line)) {
      if (isBlamed) indices.push(count)
      isBlamed = false
      count++
      process.alive()
    } else if (isComplaint(line)) {
      isBlamed = true
      words ||= plainWords(line)
    }
  }
  const process = startMedia(
    'ffmpeg',
    ['-v', 'info', '-nostats', '-hide_banner', '-nostdin', '-threads', '1', ...(input.kind === 'video' ? CHECKED : []), ...inputArguments(input), '-map', '0:v:0', '-fps_mode', 'passthrough', '-vf', 'showinfo', '-f', 'null', '-'], // prettier-ignore
    {
      signal,
      onErrorText(text) {
        const lines = (rest + text).split('\n')
        rest = lines.pop()!
        for (const line of lines) hear(line, process)
      },
    },
  )
  process.stdin.end()
  process.stdout.resume()
  await ownEnd(process)
  if (signal?.aborted) throw new MediaError('stopped', 'Stopped.')
  return { indices, count, words }
}

/** The same of numbered pictures, each looked at by itself: one that cannot be read at all leaves no trace in a run. */
export async function findDamageInRun(
  input: Extract<MediaInput, { kind: 'sequence' }>,
  pictures: number,
  signal?: AbortSignal,
): Promise<Damage> {
  const found = await findDamage(input, signal)
  const indices = new Set(found.count === pictures ? found.indices : [])
  for (let index = 0; index < pictures && !signal?.aborted; index++) {
    const path = join(dirname(input.pattern), pictureName(basename(input.pattern), input.startNumber + index))
    if (!(await isWholePicture(path))) indices.add(index)
  }
  return { ...found, indices: [...indices].sort((a, b) => a - b) }
}

/** Times that do not grow are the container's affair: no picture is damaged by them. */
const isAboutTimes = (line: string): boolean => /non monotonically increasing dts/.test(line)

/** Whether a media tool that only says what is wrong has said something of the pictures. */
export const hasComplained = (said: string): boolean =>
  said.split('\n').some((line) => line.trim() !== '' && !isAboutTimes(line))

/** Lines of a decoder or a container that say that something is wrong; all else is about what there is. */
const isComplaint = (line: string): boolean =>
  /mismatch|corrupt|invalid|error|truncat|overread|missing|premature|concealing|damaged|incomplete|out of range/i.test(
    line,
  ) &&
  !/^\s|Parsed_showinfo|color_range|deprecated/.test(line) &&
  !isAboutTimes(line)

/** A line of a media tool without the address of what said it. */
export const plainWords = (line: string): string =>
  line
    .replace(/^\[[^\]]*\]\s*/, '')
    .replace(/0x[0-9a-f]+/gi, '')
    .trim()
    .slice(0, 160)

/** Ranges for people: `1003, 1010–1012`, a few of them. @param nameOf  Of an index. */
export function indexWords(indices: readonly number[], nameOf: (index: number) => string): string {
  const ranges: [number, number][] = []
  for (const index of indices) {
    const last = ranges.at(-1)
    if (last && index === last[1] + 1) last[1] = index
    else ranges.push([index, index])
  }
  const words = ranges.slice(0, 6).map(([from, to]) => (from === to ? nameOf(from) : `${nameOf(from)}–${nameOf(to)}`)) // prettier-ignore
  return ranges.length > 6 ? `${words.join(', ')} and more` : words.join(', ')
}

/** Footage that is damaged, and could be taken in all the same. */
export class DamageError extends MediaError {
  readonly damage: Damage
  /** Whether it can be taken in as it is. */
  readonly isTakeable: boolean
  constructor(message: string, damage: Damage, isTakeable: boolean) {
    super('damaged', message)
    this.damage = damage
    this.isTakeable = isTakeable
  }
}
