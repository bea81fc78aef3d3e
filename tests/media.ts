/** Small footage for tests, made with ffmpeg and sharp; every sample is known. */
import { execFileSync } from 'node:child_process'
import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { createSamples, type BitDepth, type Samples } from '../core/image/samples'
import { encodeFrames } from '../server/media/encode.server'

/** A frame whose every sample tells its place and time; all bits are in use. */
export function patternFrame(
  width: number,
  height: number,
  channels: number,
  bitDepth: BitDepth,
  frame: number,
): Samples {
  const samples = createSamples(width, height, channels, bitDepth)
  for (let i = 0; i < samples.data.length; i++)
    samples.data[i] = Math.imul(i + 1, 2654435761 + frame * 40503) >>> (bitDepth === 8 ? 24 : 16)
  return samples
}

/** Writes numbered PNG files `shot.1001.png` … and returns their pattern. */
export async function writePngSequence(
  folder: string,
  frames: readonly Samples[],
  firstFrame = 1001,
): Promise<string> {
  mkdirSync(folder, { recursive: true })
  const [first] = frames
  const sink = encodeFrames({
    format: 'png',
    path: join(folder, 'shot.%04d.png'),
    startNumber: firstFrame,
    width: first!.width,
    height: first!.height,
    channels: first!.channels,
    bitDepth: first!.data.BYTES_PER_ELEMENT === 1 ? 8 : 16,
    frameRate: { num: 24, den: 1 },
  })
  for (const frame of frames) await sink.write(frame)
  await sink.finish()
  return join(folder, 'shot.%04d.png')
}

/** Runs ffmpeg with plain arguments, for footage that our own encoder does not make. */
export function ffmpeg(...args: string[]): void {
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...args], { stdio: ['ignore', 'inherit', 'inherit'] })
}
