/** Runs of numbered pictures on disk: which numbers there are, and whether the pictures are alike. */
import { readdir } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import type { FrameRate } from '../../core/time'
import { MediaError } from './mediaError'
import { pictureName, pictureShape } from './picture.server'
import { probeMedia, type MediaShape } from './probe.server'

/** True for a name with a printf place for the frame number, such as `shot.%04d.png`. */
export const isPattern = (path: string): boolean => /%0?\d*d/.test(basename(path))

/**
 * First number and count of the pictures that a pattern matches.
 * @throws MediaError when there is none or the numbering has a hole.
 */
export async function listSequence(
  pattern: string,
): Promise<{ readonly startNumber: number; readonly count: number }> {
  const folder = dirname(pattern)
  const [head, tail] = basename(pattern).split(/%0?\d*d/)
  const names = await readdir(folder).catch((cause: unknown) => {
    throw new MediaError('unreadable', `The folder ${folder} cannot be read. Check the path.`, { cause })
  })
  const numbers = names
    .filter((name) => name.startsWith(head!) && name.endsWith(tail!))
    .map((name) => name.slice(head!.length, name.length - tail!.length))
    .filter(
      (digits) =>
        /^\d+$/.test(digits) && pictureName(basename(pattern), Number(digits)) === `${head}${digits}${tail}`,
    )
    .map(Number)
    .sort((a, b) => a - b)
  if (numbers.length === 0)
    throw new MediaError(
      'unreadable',
      `No picture matches ${pattern}. Check the path and the number of digits.`,
    )
  for (let i = 1; i < numbers.length; i++) {
    if (numbers[i] !== numbers[i - 1]! + 1) {
      const missing = pictureName(basename(pattern), numbers[i - 1]! + 1)
      throw new MediaError(
        'uneven',
        `The numbering has a hole: ${missing} is missing. Add the missing pictures.`,
      )
    }
  }
  return { startNumber: numbers[0]!, count: numbers.length }
}

/**
 * Checks that every picture has the size and depth of the first. The decoder would scale them silently.
 * @throws MediaError that names the first picture that differs.
 */
export async function requireAlike(
  pattern: string,
  startNumber: number,
  shownNames: readonly string[],
  shape: MediaShape,
  signal?: AbortSignal,
): Promise<void> {
  for (const [index, shownName] of shownNames.entries()) {
    if (signal?.aborted) throw new MediaError('stopped', 'Stopped.')
    const path = join(dirname(pattern), pictureName(basename(pattern), startNumber + index))
    const found = await shapeOfPicture(path, shownName, shape.frameRate, startNumber + index, pattern)
    if (found.width !== shape.width || found.height !== shape.height) {
      throw new MediaError(
        'uneven',
        `${shownName} is ${found.width} × ${found.height} px, ${shownNames[0]} is ${shape.width} × ${shape.height} px. Nothing was brought in. All pictures of a shot must have one size.`,
      )
    }
    if (found.bitDepth !== shape.bitDepth || found.channels !== shape.channels) {
      throw new MediaError(
        'uneven',
        `${shownName} has ${found.channels} channels at ${found.bitDepth} bits, ${shownNames[0]} has ${shape.channels} at ${shape.bitDepth}. Nothing was brought in. Export all pictures alike.`,
      )
    }
  }
}

type Alike = Pick<MediaShape, 'width' | 'height' | 'bitDepth' | 'channels'>

/** Of one picture of a run. */
async function shapeOfPicture(
  path: string,
  shownName: string,
  frameRate: FrameRate,
  startNumber: number,
  pattern: string,
): Promise<Alike> {
  return (
    (await pictureShape(path, shownName)) ??
    probeMedia({ kind: 'sequence', pattern, startNumber, frameRate, shownName })
  )
}
