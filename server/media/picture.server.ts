/** One picture of a run on disk: its name, and what its own header says. */
import sharp from 'sharp'
import type { BitDepth } from '../../core/image/samples'
import { LIMITS } from './importPlan.server'
import { MediaError } from './mediaError'
import { poseOfXmp, type SpherePose } from './sphere.server'

/** The name of one picture of a pattern. */
export function pictureName(pattern: string, number: number): string {
  return pattern.replace(/%(0?)(\d*)d/, (_all, zero: string, width: string) =>
    String(number).padStart(zero ? Number(width || 0) : 0, '0'),
  )
}

const DIRECTLY_READ = /\.(png|jpe?g|tiff?|webp)$/i

export interface PictureShape {
  readonly width: number
  readonly height: number
  readonly bitDepth: BitDepth
  /** 4 where the picture really has an alpha channel: decoders give some formats one in any case. */
  readonly channels: 3 | 4
  readonly sphere: SpherePose | null
}

/** @returns null for kinds that only the decoder reads. @throws MediaError 'unreadable' that names the picture. */
export async function pictureShape(path: string, shownName: string): Promise<PictureShape | null> {
  if (!DIRECTLY_READ.test(path)) return null
  try {
    const { width, height, depth, hasAlpha, xmp } = await sharp(path, {
      limitInputPixels: LIMITS.pixels,
    }).metadata()
    const sphere = xmp ? poseOfXmp(xmp.toString('utf8')) : null
    return { width, height, bitDepth: depth === 'ushort' ? 16 : 8, channels: hasAlpha ? 4 : 3, sphere }
  } catch (cause) {
    throw new MediaError(
      'unreadable',
      `${shownName} cannot be read as a picture. Nothing was brought in. Copy it again.`,
      { cause },
    )
  }
}

/** Whether a picture can be decoded to its end without a complaint; kinds that only the decoder reads are taken for whole. */
export async function isWholePicture(path: string): Promise<boolean> {
  if (!DIRECTLY_READ.test(path)) return true
  return sharp(path, { limitInputPixels: LIMITS.pixels, failOn: 'warning' })
    .stats()
    .then(
      () => true,
      () => false,
    )
}
