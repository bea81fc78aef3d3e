/**
 * Sequences of the practice set on disk: real photographs under known cameras, with the truth. Frames count from 1001 here.
 * Half of the sequences set constants, by name; the others only report.
 */
import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
import sharp from 'sharp'
import { createCache } from '../workers/cache'
import { cropSamples, type Samples } from '../core/image/samples'
import type { Rect } from '../core/image/rect'
import type { Clip } from '../core/shot/clip'

export const FIRST_FRAME = 1001

/** The sequences that constants may be set on. */
const SETS = [
  'wire_01', 'wire_03', 'wire_05', 'rod_01', 'rod_03', 'dust_01', 'pixels_01', 'pixels_03', 'mark_01', 'mark_03',
  'object_01', 'object_03', 'fill_01', 'patch_01', 'shadow_01', 'skin_01', 'track_02',
] as const // prettier-ignore

/** A line of the truth on one frame: through its points, so wide. */
export interface TrueLine {
  readonly points: readonly (readonly [number, number])[]
  readonly width: number
  readonly curve?: boolean
}

export interface FrameTruth {
  readonly wires?: readonly TrueLine[]
  readonly rod?: TrueLine
  readonly gain?: number
  readonly blemishes?: readonly { readonly x: number; readonly y: number; readonly radius: number }[]
  readonly points?: readonly (readonly [number, number])[]
}

export interface PracticeSequence {
  readonly name: string
  /** Whether constants may be set on it. */
  readonly sets: boolean
  readonly frameCount: number
  readonly span: { readonly firstFrame: number; readonly lastFrame: number }
  readonly truth: readonly FrameTruth[]
  readonly clip: Clip
  read(kind: string, frame: number): Promise<Samples>
  /** The files of its pictures of a kind: a pattern for the number, counted from 0. */
  patternOf(kind: string): string
}

/** Names of the sequences in a folder that begin with any of these. */
export const sequencesIn = (folder: string, starts: readonly string[]): string[] =>
  readdirSync(folder)
    .filter(
      (name) => starts.some((start) => name.startsWith(start)) && existsSync(join(folder, name, 'meta.json')),
    )
    .sort()

export function openSequence(folder: string, name: string): PracticeSequence {
  const meta = JSON.parse(readFileSync(join(folder, name, 'meta.json'), 'utf8')) as {
    readonly width: number
    readonly height: number
    readonly frames: number
    readonly bits: 8 | 16
    readonly per_frame: readonly FrameTruth[]
  }
  const { width, height } = meta
  const bitDepth = meta.bits === 8 ? 8 : 16
  const kept = new Map<string, Promise<Samples>>()
  const read = (kind: string, frame: number): Promise<Samples> => {
    const path = join(folder, name, kind, `${String(frame - FIRST_FRAME).padStart(4, '0')}.png`)
    let reading = kept.get(path)
    if (!reading) kept.set(path, (reading = samplesOf(path, bitDepth)))
    return reading
  }
  return {
    name,
    sets: SETS.some((start) => name.startsWith(start)),
    frameCount: meta.frames,
    span: { firstFrame: FIRST_FRAME, lastFrame: FIRST_FRAME + meta.frames - 1 },
    truth: meta.per_frame,
    read,
    patternOf: (kind) => join(resolve(folder), name, kind, '%04d.png'),
    clip: {
      plate: { width, height, channels: 3, bitDepth },
      readRect: async (frame: number, rect: Rect) => cropSamples(await read('plate', frame), rect),
      readMatte: () => Promise.resolve(null),
      readStill: () => Promise.resolve(null),
      readMark: () => Promise.resolve(null),
      cache: createCache(),
    },
  }
}

export async function samplesOf(path: string, bitDepth: 8 | 16): Promise<Samples> {
  const { data, info } = await sharp(path)
    .toColourspace(bitDepth === 16 ? 'rgb16' : 'srgb')
    .raw({ depth: bitDepth === 16 ? 'ushort' : 'uchar' })
    .toBuffer({ resolveWithObject: true })
  const { width, height, channels } = info
  const bytes = new Uint8Array(data)
  return { width, height, channels, data: bitDepth === 16 ? new Uint16Array(bytes.buffer) : bytes }
}
