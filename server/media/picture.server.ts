/** One picture of a run on disk: its name, and what its own header says. */
import sharp from 'sharp'
import type { BitDepth } from '../../core/image/samples'
import { LIMITS } from './importPlan.server'
import { MediaError } from './mediaError'

/** The name of one picture of a pattern. */
export function pictureName(pattern: string, number: number): string {
  return pattern.replace(/%(0?)(\d*)d/, (_all, zero: string, width: string) =>
    String(number).padStart(zero ? Number(width || 0) : 0, '0'),
  )
}

export interface PictureShape {
  readonly width: number
  readonly height: number
  readonly bitDepth: BitDepth
  /** 4 where the picture really has an alpha channel: decoders give some formats one in any case. */
  readonly channels: 3 | 4
}

/** @returns null for kinds that only the decoder reads. @throws MediaError 'unreadable' that names the picture. */
export async function pictureShape(path: string, shownName: string): Promise<PictureShape | null> {
  if (!/\.(png|jpe?g|tiff?|webp)$/i.test(path)) return null
  try {
    const { width, height, depth, hasAlpha } = await sharp(path, {
      limitInputPixels: LIMITS.pixels,
    }).metadata()
    return { width, height, bitDepth: depth === 'ushort' ? 16 : 8, channels: hasAlpha ? 4 : 3 }
  } catch (cause) {
    throw new MediaError(
      'unreadable',
      `${shownName} cannot be read as a picture. Nothing was brought in. Copy it again.`,
      { cause },
    )
  }
}
