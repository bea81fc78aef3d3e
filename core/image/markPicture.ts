/** The picture of a mark: what lies over the footage, with how far each pixel of it covers. */
import type { Raster } from './raster'
import type { Samples } from './samples'
import { rasterFromSamples, samplesFromRaster } from './samples'

/** A mark adds `colours` and leaves `1 − opacity` of what is under it. Planes of one size, row by row. */
export interface MarkPicture {
  readonly width: number
  readonly height: number
  /** Colour channels. */
  readonly channels: number
  /** Colour times opacity, channels interleaved, in the plate's own encoding. */
  readonly added: Float32Array
  /** 0 to 1. */
  readonly opacity: Float32Array
}

const ALPHA_BITS = 16

/** As a picture with straight alpha as its last channel, 16 bits: what is stored and handed on. */
export function samplesFromMark({ width, height, channels, added, opacity }: MarkPicture): Samples {
  const data = new Float32Array(width * height * (channels + 1))
  for (let at = 0; at < opacity.length; at++) {
    const share = opacity[at]!
    for (let c = 0; c < channels; c++)
      data[at * (channels + 1) + c] =
        share > 0 ? Math.min(1, Math.max(0, added[at * channels + c]! / share)) : 0
    data[at * (channels + 1) + channels] = share
  }
  return samplesFromRaster({ width, height, channels: channels + 1, data }, ALPHA_BITS)
}

/** @param samples  Straight alpha as the last channel. @throws RangeError where it has none. */
export function markFromSamples(samples: Samples): MarkPicture {
  const { width, height } = samples
  const channels = samples.channels - 1
  if (channels !== 1 && channels !== 3)
    throw new RangeError(
      `A mark needs colour and an alpha channel. This picture has ${samples.channels} channels.`,
    )
  const { data } = rasterFromSamples(samples)
  const added = new Float32Array(width * height * channels)
  const opacity = new Float32Array(width * height)
  for (let at = 0; at < opacity.length; at++) {
    opacity[at] = data[at * samples.channels + channels]!
    for (let c = 0; c < channels; c++)
      added[at * channels + c] = data[at * samples.channels + c]! * opacity[at]!
  }
  return { width, height, channels, added, opacity }
}

/** Added colours with the opacity as the last channel, so that both are read between pixels in one go. */
export function layerOfMark({ width, height, channels, added, opacity }: MarkPicture): Raster {
  const data = new Float32Array(width * height * (channels + 1))
  for (let at = 0; at < opacity.length; at++) {
    for (let c = 0; c < channels; c++) data[at * (channels + 1) + c] = added[at * channels + c]!
    data[at * (channels + 1) + channels] = opacity[at]!
  }
  return { width, height, channels: channels + 1, data }
}
