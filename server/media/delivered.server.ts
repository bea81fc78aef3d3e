/** Frames of a finished version, read again from the file that is taken away. */
import { buffer } from 'node:stream/consumers'
import sharp from 'sharp'
import { openPromise } from 'yauzl'
import type { Samples } from '../../core/image/samples'
import { decodeFrames } from './decode.server'
import type { RenderFormat } from './formats'
import { MediaError } from './mediaError'
import type { MediaShape } from './probe.server'

/** What a finished file holds. */
export interface DeliveredShape extends Pick<
  MediaShape,
  'width' | 'height' | 'channels' | 'bitDepth' | 'frameRate'
> {
  readonly frameCount: number
}

/** Whether a file of this format must hold every sample as it was rendered. */
export const isLossless = (format: RenderFormat): boolean => format !== 'vp9'

/**
 * Yields the frames of a finished file in order.
 * @throws MediaError when it cannot be read to its end, or a picture is not of the stated shape.
 */
export async function* readDelivered(
  format: RenderFormat,
  path: string,
  shownName: string,
  shape: DeliveredShape,
  signal?: AbortSignal,
): AsyncGenerator<Samples> {
  if (format === 'png') {
    yield* readZippedPictures(path, shownName, shape, signal)
    return
  }
  const { frameCount, ...stated } = shape
  const expectedFrames = { count: frameCount, isExact: true }
  const asMedia = { ...stated, expectedFrames, isYuv: false, hasKnownMatrix: true, sphere: null }
  yield* decodeFrames({ kind: 'video', path, shownName }, asMedia, signal)
}

async function* readZippedPictures(
  path: string,
  shownName: string,
  { width, height, channels, bitDepth }: DeliveredShape,
  signal?: AbortSignal,
): AsyncGenerator<Samples> {
  const zip = await openPromise(path).catch((cause: unknown) => {
    throw new MediaError('unreadable', `${shownName} cannot be read again. Make the version once more.`, {
      cause,
    })
  })
  try {
    // Written in the order of the frames.
    for await (const entry of zip.eachEntry()) {
      signal?.throwIfAborted()
      const picture = sharp(await buffer(await zip.openReadStreamPromise(entry)))
      const { data, info } = await picture
        .toColourspace(bitDepth === 16 ? 'rgb16' : 'srgb')
        .raw({ depth: bitDepth === 16 ? 'ushort' : 'uchar' })
        .toBuffer({ resolveWithObject: true })
      if (info.width !== width || info.height !== height || info.channels !== channels)
        throw new MediaError(
          'unreadable',
          `${entry.fileName} in ${shownName} is not of the size that was rendered.`,
        )
      const bytes = new Uint8Array(data)
      yield { width, height, channels, data: bitDepth === 16 ? new Uint16Array(bytes.buffer) : bytes }
    }
  } finally {
    zip.close()
  }
}
