/** Still pictures, brought to the size and the depth of a plate. */
import { basename } from 'node:path'
import sharp from 'sharp'
import type { PlateShape } from '../../core/shot/clip'
import type { Samples } from '../../core/image/samples'
import { LIMITS } from './importPlan.server'
import { MediaError } from './mediaError'

const MAX_PIXELS = LIMITS.pixels
const FORMATS = new Set(['png', 'jpeg', 'tiff', 'webp'])

/**
 * Reads a PNG, JPEG, TIFF or WebP picture; another size is scaled to cover the plate, cut evenly on both sides.
 * @throws MediaError 'unreadable' in words.
 */
export async function readStillPicture(
  path: string,
  plate: PlateShape,
  shownName = basename(path),
): Promise<Samples> {
  const unreadable = (cause?: unknown) =>
    new MediaError(
      'unreadable',
      `${shownName} cannot be read as a still. PNG, JPEG, TIFF and WebP pictures can.`,
      { cause },
    )
  const { format, depth } = await sharp(path, { limitInputPixels: MAX_PIXELS })
    .metadata()
    .catch((cause: unknown) => {
      throw unreadable(cause)
    })
  if (!FORMATS.has(format ?? '')) throw unreadable()
  const { width, height, channels, bitDepth } = plate
  let picture = sharp(path, { limitInputPixels: MAX_PIXELS }).rotate().resize(width, height, { fit: 'cover' })
  picture = channels === 4 ? picture.ensureAlpha() : picture.removeAlpha()
  const isDeep = bitDepth === 16
  // Eight bits are widened here: the library would make 0x66 of a picture 0x6600, not 0x6666.
  const readsDeep = isDeep && depth === 'ushort'
  picture = readsDeep
    ? picture.pipelineColourspace('rgb16').toColourspace('rgb16')
    : picture.toColourspace('srgb')
  const bytes = await picture
    .raw({ depth: readsDeep ? 'ushort' : 'uchar' })
    .toBuffer()
    .catch((cause: unknown) => {
      throw unreadable(cause)
    })
  const length = width * height * channels
  const data = readsDeep
    ? new Uint16Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + length * 2))
    : isDeep
      ? Uint16Array.from(bytes, (value) => value * 257)
      : new Uint8Array(bytes.subarray(0, length))
  if (data.length !== length) throw unreadable()
  return { width, height, channels, data }
}
