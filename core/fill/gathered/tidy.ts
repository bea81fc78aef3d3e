/**
 * Tidy outline: what of a roughly drawn area really is the thing. The thing differs from the background that was
 * gathered behind it, everything else does not.
 *
 * The squared difference, in deviations of the grain, is averaged over small windows; what is clearly above grain is
 * the thing. Small gaps in it are closed, it is widened a little for its soft rim, and its edge is feathered.
 * Source: background subtraction; A. Elgammal, D. Harwood, L. Davis, "Non-parametric model for background
 * subtraction", ECCV 2000; closing: J. Serra, 1982.
 */
import { boxSums } from '../../image/windows'
import type { FillInput } from '../method'

const WINDOW_PX = 2 // to each side
/** Mean squared difference, in variances of the grain, from which on it is more than grain: 75 samples of chance stay well below. */
const CLEARLY = 1.9
/** Rounding and reading between pixels differ by so much where nothing does, in the plate's scale. */
const MIN_DEVIATION = 1 / 255
const CLOSE_PX = 5
/** Specks with fewer px around them than this share of the window are chance. */
const SPECK_SHARE = 0.12
const SPECK_PX = 4

export interface TidyInput {
  readonly input: FillInput
  /** The gathered background of each entry, and the share of one frame's grain variance left in it. */
  readonly values: Float32Array
  readonly grainKept: Float32Array
  readonly isSeen: Uint8Array
  readonly grainDeviations: readonly number[]
  /** From the drawn edge: within it what nobody saw counts as the thing. */
  readonly drawnPx: number
  readonly growPx: number
  readonly featherPx: number
}

/** @returns For each entry how far it needs filling, 0 to 1. */
export function tidied({
  input,
  values,
  grainKept,
  isSeen,
  grainDeviations,
  drawnPx,
  growPx,
  featherPx,
}: TidyInput): Float32Array {
  const { picture, field, wanted } = input
  const { width, height, channels, data } = picture
  const size = width * height
  const [misfit, known] = [new Float32Array(size), new Float32Array(size)]
  for (let i = 0; i < field.count; i++) {
    if (wanted[i] === 0 || isSeen[i] === 0) continue
    const pixel = field.pixels[i]!
    let sum = 0
    for (let c = 0; c < channels; c++) {
      const deviation = Math.max(MIN_DEVIATION, grainDeviations[c]!)
      const off = (data[pixel * channels + c]! - values[i * channels + c]!) / deviation
      // One bright speck of grain must not stand for a whole window.
      sum += Math.min(16, (off * off) / (1 + grainKept[i]!))
    }
    misfit[pixel] = sum / channels
    known[pixel] = 1
  }
  const [sums, counts] = [boxSums(misfit, width, height, WINDOW_PX), boxSums(known, width, height, WINDOW_PX)]
  const isDrawn = new Uint8Array(size)
  for (let i = 0; i < field.count; i++) if (field.edges[i]! <= drawnPx) isDrawn[field.pixels[i]!] = 1
  let mask: Float32Array = new Float32Array(size)
  for (let i = 0; i < field.count; i++) {
    if (wanted[i] === 0) continue
    const pixel = field.pixels[i]!
    if (isSeen[i] === 1) mask[pixel] = sums[pixel]! > CLEARLY * counts[pixel]! ? 1 : 0
    else mask[pixel] = field.edges[i]! <= drawnPx ? 1 : 0
  }
  const holdoutDistances =
    input.holdoutDistances && holdoutThings(input, mask, input.holdoutDistances, drawnPx)
  if (holdoutDistances) mask = mask.map((value, pixel) => (holdoutDistances[pixel] === 1 ? 0 : value))
  const dense = boxSums(mask, width, height, SPECK_PX)
  const enough = SPECK_SHARE * (2 * SPECK_PX + 1) * (2 * SPECK_PX + 1)
  mask = mask.map((value, pixel) => (dense[pixel]! >= enough ? value : 0))
  mask = eroded(dilated(mask, width, height, CLOSE_PX), width, height, CLOSE_PX)
  mask = dilated(mask, width, height, Math.max(0, Math.round(growPx)))
  // The soft rim of what is held out is its own.
  if (holdoutDistances) {
    const rims = dilated(holdoutDistances, width, height, Math.max(0, Math.round(growPx)))
    mask = mask.map((value, pixel) => (rims[pixel] === 1 && !isDrawn[pixel] ? 0 : value))
  }
  const feather = Math.max(0, Math.round(featherPx))
  const area = (2 * feather + 1) * (2 * feather + 1)
  const soft = feather > 0 ? boxSums(dilated(mask, width, height, feather), width, height, feather) : mask
  return Float32Array.from({ length: field.count }, (_, i) =>
    feather > 0 ? Math.min(1, soft[field.pixels[i]!]! / area) : mask[field.pixels[i]!]!,
  )
}

/**
 * What is held out is tidied too: what differs and hangs together with a holdout as drawn belongs to it, up to where the thing itself
 * was drawn. So a rough outline of what passes in front is enough.
 */
function holdoutThings(
  { picture, field }: FillInput,
  mask: Float32Array,
  holdoutDistances: Float32Array,
  drawnPx: number,
): Float32Array {
  const { width, height } = picture
  const out = new Float32Array(width * height)
  const isOpen = new Uint8Array(width * height)
  const waiting: number[] = []
  for (let i = 0; i < field.count; i++) {
    const pixel = field.pixels[i]!
    if (holdoutDistances[i]! <= 0) waiting.push(pixel)
    else if (holdoutDistances[i]! !== Infinity && field.edges[i]! > drawnPx && mask[pixel] === 1)
      isOpen[pixel] = 1
  }
  for (let pixel = waiting.pop(); pixel !== undefined; pixel = waiting.pop()) {
    out[pixel] = 1
    const col = pixel % width
    for (const [dx, dy] of BESIDE) {
      const other = pixel + dy * width + dx
      if (col + dx < 0 || col + dx >= width || other < 0 || other >= isOpen.length || isOpen[other] === 0)
        continue
      isOpen[other] = 0
      waiting.push(other)
    }
  }
  return out
}

const BESIDE = [
  [-1, 0],
  [1, 0],
  [0, -1],
  [0, 1],
] as const

const dilated = (mask: Float32Array, width: number, height: number, radius: number): Float32Array =>
  radius === 0 ? mask : boxSums(mask, width, height, radius).map((sum) => (sum > 0.5 ? 1 : 0))

/** Beyond the border everything counts as set: an area at the picture's edge keeps to it. */
function eroded(mask: Float32Array, width: number, height: number, radius: number): Float32Array {
  return boxSums(
    mask.map((value) => 1 - value),
    width,
    height,
    radius,
  ).map((sum) => (sum > 0.5 ? 0 : 1))
}
