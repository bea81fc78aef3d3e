/** The demo film on disk, as the tests read it: frames, truth and exact geometry. */
import { execFileSync } from 'node:child_process'
import { existsSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import sharp from 'sharp'
import type { LM_010, Moment } from '../../demo/lm010/scene'

export const DEMO_FOLDER = '.data/test-demo'
const SHOT_FOLDER = join(DEMO_FOLDER, 'LM_010')

export interface Scene extends Omit<typeof LM_010, never> {
  readonly moments: readonly Moment[]
}

export const readScene = (): Scene =>
  JSON.parse(readFileSync(join(SHOT_FOLDER, 'scene.json'), 'utf8')) as Scene

export const momentOf = (scene: Scene, frame: number): Moment => scene.moments[frame - scene.firstFrame]!

/** 8-bit RGB samples of a frame. */
export async function readFrame(
  kind: 'plate' | 'truth' | 'truth-without-grain',
  frame: number,
): Promise<Uint8Array> {
  const buffer = await sharp(join(SHOT_FOLDER, kind, `LM_010.${frame}.png`))
    .raw()
    .toBuffer()
  return new Uint8Array(buffer)
}

/** LM_010's plate as one lossless video file; made once. */
export function plateVideo(): string {
  const file = join(DEMO_FOLDER, 'LM_010.mkv')
  if (!existsSync(file)) {
    const pattern = join(SHOT_FOLDER, 'plate', 'LM_010.%04d.png')
    execFileSync('ffmpeg', [
      '-v',
      'error',
      '-y',
      '-framerate',
      '24',
      '-start_number',
      '1001',
      '-i',
      pattern,
      '-c:v',
      'ffv1',
      '-g',
      '1',
      '-pix_fmt',
      'bgr0',
      file,
    ])
  }
  return file
}
