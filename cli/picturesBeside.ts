/** Pictures that a mends file names: stills and mattes, looked up beside it. */
import { existsSync } from 'node:fs'
import { dirname, resolve } from 'node:path'
import { cropSamples, type Samples } from '../core/image/samples'
import { markFromSamples } from '../core/image/markPicture'
import type { Clip } from '../core/shot/clip'
import { cutMatte, matteFile, readMattePicture } from '../server/media/matte.server'
import { readMarkPicture } from '../server/media/markPicture.server'
import type { MediaShape } from '../server/media/probe.server'
import { readStillPicture } from '../server/media/still.server'
import { CliError } from './cliError'
import { EXIT } from './exitCodes'

/** Stills that fills name as files; each is read once. Names are looked up beside the mends file. */
export function stillsBeside(mendsPath: string, shape: MediaShape): Clip['readStill'] {
  const opened = new Map<string, Promise<Samples | null>>()
  return async (name, rect) => {
    if (name.startsWith('still:')) {
      throw new CliError(
        EXIT.mends,
        `${mendsPath} uses a still that was brought into the application. Give its file instead, such as stills/sky.png.`,
      )
    }
    const path = resolve(dirname(mendsPath), name)
    let reading = opened.get(path)
    if (!reading)
      opened.set(path, (reading = existsSync(path) ? readStillPicture(path, shape) : Promise.resolve(null)))
    const still = await reading
    return still && cropSamples(still, rect)
  }
}

/** Pictures of marks that fills name as files, looked up beside the mends file. */
export const marksBeside =
  (mendsPath: string): Clip['readMark'] =>
  async (name) => {
    if (name.startsWith('mark:')) {
      throw new CliError(
        EXIT.mends,
        `${mendsPath} uses a mark picture that is kept in the application. Give its file instead, such as marks/logo.png.`,
      )
    }
    const path = resolve(dirname(mendsPath), name)
    return existsSync(path) ? markFromSamples(await readMarkPicture(path)) : null
  }

/** Pictures of matte sequences; patterns are looked up beside the mends file. */
export const mattesBeside =
  (mendsPath: string, signal: AbortSignal): Clip['readMatte'] =>
  (pattern, frame) =>
    readMatteOf(mendsPath, pattern, frame, signal)

async function readMatteOf(mendsPath: string, pattern: string, frame: number, signal: AbortSignal) {
  if (pattern.startsWith('matte:')) {
    throw new CliError(
      EXIT.mends,
      `${mendsPath} uses a matte that was brought into the application. Give its pictures as a pattern such as mattes/clamp.####.png instead.`,
    )
  }
  const path = resolve(dirname(mendsPath), matteFile(pattern, frame))
  return existsSync(path) ? cutMatte(await readMattePicture(path, undefined, signal)) : null
}
