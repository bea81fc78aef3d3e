/** Pictures of marks as files: PNG with straight alpha, 16 bits. */
import { basename } from 'node:path'
import sharp from 'sharp'
import type { Samples } from '../../core/image/samples'
import { MediaError } from './mediaError'

/** A mark lies in a picture; larger than this is none. */
export const MAX_MARK_PX = 4096
const FORMATS = new Set(['png', 'tiff', 'webp'])

/** @throws MediaError in words when it is no picture with alpha. */
export async function readMarkPicture(path: string, shownName = basename(path)): Promise<Samples> {
  const unreadable = (why: string, cause?: unknown) =>
    new MediaError(
      'unreadable',
      `${shownName} cannot be read as a mark: ${why}. PNG, TIFF and WebP pictures with alpha can, up to ${MAX_MARK_PX} px a side.`,
      { cause },
    )
  const { format, width, height, hasAlpha, depth } = await sharp(path, {
    limitInputPixels: MAX_MARK_PX * MAX_MARK_PX,
  })
    .metadata()
    .catch((cause: unknown) => {
      throw unreadable('it is no picture', cause)
    })
  if (!FORMATS.has(format ?? '')) throw unreadable('it is of another kind')
  if (width > MAX_MARK_PX || height > MAX_MARK_PX) throw unreadable('it is too large')
  if (!hasAlpha) throw unreadable('it has no alpha channel')
  const isDeep = depth === 'ushort'
  const picture = sharp(path, { limitInputPixels: MAX_MARK_PX * MAX_MARK_PX })
  const bytes = await (isDeep ? picture.toColourspace('rgb16') : picture.toColourspace('srgb'))
    .raw({ depth: isDeep ? 'ushort' : 'uchar' })
    .toBuffer()
    .catch((cause: unknown) => {
      throw unreadable('it is damaged', cause)
    })
  const channels = 4
  const count = width * height * channels
  const data = isDeep
    ? new Uint16Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + 2 * count))
    : Uint16Array.from(bytes.subarray(0, count), (value) => value * 257)
  if (data.length !== count) throw unreadable('it is damaged')
  return { width, height, channels, data }
}

/** Writes colour with straight alpha. */
export async function markPng({ width, height, channels, data }: Samples): Promise<Buffer> {
  if (channels !== 4) throw new RangeError(`a mark has four channels. Received ${channels}`)
  return sharp(data, { raw: { width, height, channels: 4, premultiplied: false } })
    .toColourspace('rgb16')
    .png()
    .toBuffer()
}
