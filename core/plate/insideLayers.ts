/** Which layer each hidden place belongs to, and what the frames say of it through that one. */
import { NO_LAYER } from '../scene/layerMap'
import { layersOfPixels } from './frameLayers'
import type { GatherInput } from './gatherInput'
import type { Joined } from './join'
import type { JoinedLayers, JoinedPieces } from './joinPieces'
import { chooseLayers } from './layers'

interface PixelLayers {
  readonly pixels: Int32Array
  readonly layers: Uint8Array
}

/** The layer of each hidden pixel. @param anchors  Pixels around, with the layer that the scene says they show. */
export function layersInside(
  input: GatherInput,
  anchors: PixelLayers,
  byLayer: readonly JoinedLayers[],
  comparison: JoinedPieces['comparison'],
): Uint8Array {
  const { hidden, picture, layerMap, rect } = input
  const known = knownLayers(input, anchors, comparison)
  const told = layerMap
    ? layersOfPixels(layerMap, hidden, rect)
    : new Uint8Array(hidden.length).fill(NO_LAYER)
  const costs = byLayer.map(({ costs: ofLayer }) => ofLayer!)
  return chooseLayers(
    { hidden, costs, around: known.pixels, aroundLayers: known.layers, told },
    picture.width,
    picture.height,
  )
}

/** Layers around the area: on the rim those through which the frames agree with the plate, further out as the scene has them. */
function knownLayers(
  { rim, picture }: GatherInput,
  { pixels, layers }: PixelLayers,
  { best, differs }: JoinedPieces['comparison'],
): PixelLayers {
  const isRim = new Uint8Array(picture.width * picture.height)
  for (const pixel of rim) isRim[pixel] = 1
  const out = {
    pixels: new Int32Array(pixels.length + rim.length),
    layers: new Uint8Array(pixels.length + rim.length),
  }
  let count = 0
  for (let k = 0; k < pixels.length; k++) {
    if (isRim[pixels[k]!] === 1) continue
    out.pixels[count] = pixels[k]!
    out.layers[count++] = layers[k]!
  }
  for (let k = 0; k < rim.length; k++) {
    if (differs[k] !== 0) continue
    out.pixels[count] = rim[k]!
    out.layers[count++] = best[k]!
  }
  return { pixels: out.pixels.subarray(0, count), layers: out.layers.subarray(0, count) }
}

/** Of what was joined through each layer, what each place's own layer says; channels interleaved. */
export function selectLayers(
  byLayer: readonly JoinedLayers[],
  layers: Uint8Array,
  channels: number,
): Joined & { readonly from: Int32Array } {
  const count = layers.length
  const out = {
    values: new Float32Array(count * channels),
    variance: new Float32Array(count),
    seen: new Float32Array(count),
    agree: new Float32Array(count),
    from: new Int32Array(count),
  }
  for (let i = 0; i < count; i++) {
    const from = byLayer[layers[i]!]!
    for (let c = 0; c < channels; c++) out.values[i * channels + c] = from.values[c * from.stride + i]!
    out.variance[i] = from.variance[i]!
    out.seen[i] = from.seen[i]!
    out.agree[i] = from.agree[i]!
    out.from[i] = from.from[i]!
  }
  return out
}
