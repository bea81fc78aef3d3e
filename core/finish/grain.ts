/**
 * Film grain: measured around an area and made anew inside it.
 *
 * Grain is a function of (seed, frame, col, row, channel) and nothing else, so crops, tiles and
 * threads agree, and every frame has its own.
 */
import type { Raster } from '../image/raster'
import type { EdgeField } from '../matte/edge'

const { imul } = Math // looked up once: it runs several times for every sample
const SQRT_3 = Math.sqrt(3)
const MOST_PLACES = 6000 // beyond this the estimate no longer improves, only its cost
const LOWER_QUARTILE_OF_NORMAL = 0.3186394 // of |N(0, 1)|; tables of the normal distribution
const MASK_GAIN = 6 // the mask (1 −2 1)ᵀ(1 −2 1) turns white noise of deviation s into 6 s

/**
 * Standard deviation of the grain around an area, per channel, in the raster's own scale.
 *
 * A second difference both ways leaves noise and takes flat colour and ramps away; the lower quartile
 * of its size ignores texture and edges as long as a quarter of the places are free of them.
 *
 * @param rimPx  Distance from the area's edge at which untouched plate begins; nearer is left out.
 * @returns 0 where fewer than 16 places could be measured.
 * Source: J. Immerkær, "Fast noise variance estimation", CVIU 64(2), 1996, with a quartile for the mean.
 */
export function measureGrain(picture: Raster, field: EdgeField, rimPx: number): Float32Array {
  const { width, height, channels, data } = picture
  const places = new Int32Array(field.count)
  let count = 0
  for (let i = 0; i < field.count; i++) {
    const col = field.pixels[i]! % width
    const row = (field.pixels[i]! - col) / width
    // One pixel further, since the mask reads its neighbours.
    const isClear = field.edges[i]! > rimPx + 1.5
    if (isClear && col > 0 && row > 0 && col < width - 1 && row < height - 1) places[count++] = field.pixels[i]!
  }
  const levels = new Float32Array(channels)
  const stride = Math.max(1, Math.ceil(count / MOST_PLACES))
  const used = Math.floor((count + stride - 1) / stride)
  if (used < 16) return levels
  const sizes = new Float32Array(used)
  const down = width * channels
  for (let channel = 0; channel < channels; channel++) {
    for (let k = 0; k < used; k++) {
      const at = places[k * stride]! * channels + channel
      const above = data[at - down - channels]! - 2 * data[at - down]! + data[at - down + channels]!
      const here = data[at - channels]! - 2 * data[at]! + data[at + channels]!
      const below = data[at + down - channels]! - 2 * data[at + down]! + data[at + down + channels]!
      sizes[k] = Math.abs(above - 2 * here + below)
    }
    sizes.sort()
    levels[channel] = sizes[Math.floor(used / 4)]! / (LOWER_QUARTILE_OF_NORMAL * MASK_GAIN)
  }
  return levels
}

/**
 * One value of grain with mean 0 and deviation 1: the sum of four uniform numbers, which is within
 * 0.01 of the normal distribution and never beyond ±3.5.
 */
export function grainAt(seed: number, frame: number, col: number, row: number, channel: number): number {
  const place = mix(mix(mix(seed ^ imul(frame, 0x9e3779b1)) + imul(row, 0x85ebca6b)) + imul(col, 0xc2b2ae35) + channel)
  const more = mix(place ^ 0x68bc21eb)
  const sum = (place & 0xffff) + (place >>> 16) + (more & 0xffff) + (more >>> 16)
  return (sum / 65535 - 2) * SQRT_3
}

/** A 32-bit mixing function: multiply and shift until every input bit reaches every output bit. */
function mix(value: number): number {
  let h = value | 0
  h = imul(h ^ (h >>> 16), 0x7feb352d)
  h = imul(h ^ (h >>> 15), 0x846ca68b)
  return h ^ (h >>> 16)
}

/** A seed from a name, so that two mends never share their grain. FNV-1a, 32 bits. */
export function seedFromText(text: string): number {
  let h = 0x811c9dc5
  for (let i = 0; i < text.length; i++) h = imul(h ^ text.charCodeAt(i), 0x01000193)
  return h | 0
}
