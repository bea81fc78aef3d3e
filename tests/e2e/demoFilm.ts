/** The demo film on disk, as the tests read it: frames, truth and exact geometry. */
import { execFileSync } from 'node:child_process'
import { existsSync, readFileSync, renameSync } from 'node:fs'
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

/** Frames of a shot of the film as one lossless video file, made once. @param crop  Of ffmpeg: `width:height:left:top`. */
export function filmClip(
  name: string,
  shot: string,
  {
    firstFrame,
    count,
    crop,
  }: { readonly firstFrame: number; readonly count?: number; readonly crop?: string },
): string {
  const file = join(DEMO_FOLDER, name)
  if (existsSync(file)) return file
  const pattern = join(DEMO_FOLDER, shot, 'plate', `${shot}.%04d.png`)
  // Tests run beside each other: nobody reads a file that is still being written.
  const partial = join(DEMO_FOLDER, `${process.pid}-${name}`)
  execFileSync('ffmpeg', [
    ...['-v', 'error', '-y', '-framerate', '24', '-start_number', String(firstFrame), '-i', pattern],
    ...(count === undefined ? [] : ['-frames:v', String(count)]),
    ...(crop === undefined ? [] : ['-vf', `crop=${crop}`]),
    ...['-c:v', 'ffv1', '-g', '1', '-pix_fmt', 'bgr0', partial],
  ])
  renameSync(partial, file)
  return file
}

/** LM_010's plate. */
export const plateVideo = (): string => filmClip('LM_010.mkv', 'LM_010', { firstFrame: 1001 })
