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
/** A single sample counts for so many variances at most. */
const MAX_OFF = 16
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
  /** 0 for wanted entries that nobody was asked about: their neighbours tell. Null where all were. */
  readonly isAsked?: Uint8Array | null
  readonly grainDeviations: readonly number[]
  /** From the drawn edge: within it what nobody saw counts as the thing. */
  readonly drawnPx: number
  readonly growPx: number
  readonly featherPx: number
}

/** @returns For each entry how far it needs filling, 0 to 1. */
export function tidied(tidy: TidyInput): Float32Array {
  const { input, drawnPx } = tidy
  const { picture, field } = input
  const { width, height } = picture
  const [grow, feather] = [Math.max(0, Math.round(tidy.growPx)), Math.max(0, Math.round(tidy.featherPx))]
  let mask = differing(tidy)
  const heldOut = input.holdoutDistances && holdoutThings(input, mask, input.holdoutDistances, drawnPx)
  if (heldOut) clearWhere(mask, heldOut)
  clearSpecks(mask, width, height)
  mask = eroded(dilated(mask, width, height, CLOSE_PX), width, height, CLOSE_PX)
  mask = dilated(mask, width, height, grow)
  // The soft rim of what is held out is its own.
  if (heldOut) {
    const rims = dilated(heldOut, width, height, grow)
    for (let i = 0; i < field.count; i++) if (field.edges[i]! <= drawnPx) rims[field.pixels[i]!] = 0
    clearWhere(mask, rims)
  }
  const soft = feather > 0 ? boxSums(dilated(mask, width, height, feather), width, height, feather) : mask
  const out = new Float32Array(field.count)
  for (let i = 0; i < field.count; i++) {
    const pixel = field.pixels[i]!
    out[i] = feather > 0 ? soft[pixel]! / cellsAround(pixel, width, height, feather) : soft[pixel]!
  }
  return out
}

/** 1 where the picture differs from its background by more than grain; what nobody saw does so as far as it was drawn. */
function differing({
  input,
  values,
  grainKept,
  isSeen,
  isAsked = null,
  grainDeviations,
  drawnPx,
}: TidyInput): Float32Array {
  const { picture, field, wanted } = input
  const { width, height, channels, data } = picture
  const [misfit, known] = [new Float32Array(width * height), new Float32Array(width * height)]
  const scales = Float32Array.from(grainDeviations, (deviation) => 1 / Math.max(MIN_DEVIATION, deviation))
  for (let i = 0; i < field.count; i++) {
    if (wanted[i] === 0 || isSeen[i] === 0) continue
    const pixel = field.pixels[i]!
    const share = 1 / (1 + grainKept[i]!)
    let sum = 0
    for (let c = 0; c < channels; c++) {
      const off = (data[pixel * channels + c]! - values[i * channels + c]!) * scales[c]!
      const square = off * off * share
      // One bright speck of grain must not stand for a whole window.
      sum += square < MAX_OFF ? square : MAX_OFF
    }
    misfit[pixel] = sum / channels
    known[pixel] = 1
  }
  const [sums, counts] = [boxSums(misfit, width, height, WINDOW_PX), boxSums(known, width, height, WINDOW_PX)]
  const mask = new Float32Array(width * height)
  for (let i = 0; i < field.count; i++) {
    if (wanted[i] === 0) continue
    const pixel = field.pixels[i]!
    const isTold = isSeen[i] === 1 || (isAsked !== null && isAsked[i] === 0 && counts[pixel]! > 0.5)
    if (isTold ? sums[pixel]! > CLEARLY * counts[pixel]! : field.edges[i]! <= drawnPx) mask[pixel] = 1
  }
  return mask
}

/** Pixels of a square of 2 radius + 1 px that lie inside the map: fewer at its border. */
function cellsAround(pixel: number, width: number, height: number, radius: number): number {
  const row = (pixel / width) | 0
  const col = pixel - row * width
  const across = Math.min(width - 1, col + radius) - Math.max(0, col - radius) + 1
  const down = Math.min(height - 1, row + radius) - Math.max(0, row - radius) + 1
  return across * down
}

function clearWhere(mask: Float32Array, isCleared: Float32Array): void {
  for (let pixel = 0; pixel < mask.length; pixel++) if (isCleared[pixel] === 1) mask[pixel] = 0
}

function clearSpecks(mask: Float32Array, width: number, height: number): void {
  const dense = boxSums(mask, width, height, SPECK_PX)
  for (let pixel = 0; pixel < mask.length; pixel++)
    if (mask[pixel] === 1 && dense[pixel]! < SPECK_SHARE * cellsAround(pixel, width, height, SPECK_PX))
      mask[pixel] = 0
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
  radius === 0 ? mask : marked(boxSums(mask, width, height, radius), 1)

/** Beyond the border everything counts as set: an area at the picture's edge keeps to it. */
function eroded(mask: Float32Array, width: number, height: number, radius: number): Float32Array {
  const empty = new Float32Array(mask.length)
  for (let pixel = 0; pixel < mask.length; pixel++) empty[pixel] = 1 - mask[pixel]!
  return marked(boxSums(empty, width, height, radius), 0)
}

/** Sums made a mask, in place: `set` where there is any, else the other. */
function marked(sums: Float32Array, set: 0 | 1): Float32Array {
  for (let pixel = 0; pixel < sums.length; pixel++) sums[pixel] = sums[pixel]! > 0.5 ? set : 1 - set
  return sums
}
