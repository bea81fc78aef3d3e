/**
 * The tone of a skin, learnt from a picture: where its colours lie together, and how wide they lie. A published range only says where to begin, so that
 * any complexion in any light is learnt.
 */
import { blueDifference, brightnessOf, redDifference } from '../colour/ycc'
import type { Raster } from '../image/raster'
import { boxSums } from '../image/windows'

/**
 * Colours that lie along a line: where that is at the middle of their brightness, how it goes with brightness, and how far colours lie from it, as deviations.
 * In the shade less light comes back, and often another one: colourfulness falls, and hues may turn. Differences are 0 for grey.
 */
export interface Tone {
  readonly brightness: number
  readonly blue: number
  readonly red: number
  /** By how much colourfulness and hue rise with brightness; brighter than `brightest` they stay. */
  readonly slopes: { readonly colour: number; readonly hue: number }
  readonly brightest: number
  /** Of brightness; of the difference from grey along the tone's own, which is colourfulness; and across it, which is hue. */
  readonly deviations: ToneAxes
}

export interface ToneAxes {
  readonly brightness: number
  readonly colour: number
  readonly hue: number
}

/** Codes of 8 bits with grey at 128: D. Chai, K. N. Ngan, "Face segmentation using skin-color map in videophone applications", IEEE Trans. CSVT 9(4), 1999: Cb 77 to 127, Cr 133 to 173 of 255. */
export const PUBLISHED_RANGE = { blue: [77, 127], red: [133, 173] } as const
/** A smaller share of a region in the published range is somebody else's. */
const MIN_SHARE = 0.05
const MIN_PIXELS = 30
const MAX_PIXELS = 8000
const ROUNDS = 16
const SETTLED = 0.1 / 255
const FIRST_DEVIATIONS: ToneAxes = { brightness: 0.12, colour: 0.02, hue: 0.01 }
/** Deviations outside these are no skin's: grain alone, or several things. */
const MIN_DEVIATIONS: ToneAxes = { brightness: 0.04, colour: 0.01, hue: 0.006 }
const MAX_DEVIATIONS: ToneAxes = { brightness: 0.16, colour: 0.02, hue: 0.012 }
/** Colours from so many deviations on have a quarter of the say. */
const STRAY = 2
/** Of what is left by such weights from a normal distribution, its own deviation is so much more. */
const WIDEN = 1.25
/** A tone has at least this share of its colourfulness, however dark. */
export const DARKEST = 0.25
/** In one light colourfulness goes with brightness. Lights that mix make it rise by less or more: by so many times that at least and at most; hues turn by less. */
const SLOPES = { min: 0.3, max: 2.2, hue: 0.4 }
/** So much more than its deviation brighter, a tone is brightest: beyond lie highlights. */
const BRIGHTEST = 1
/** What speaks for a light that is the same everywhere, as a share of all, so that colours of one brightness turn no line. */
const ONE_LIGHT = 0.02
/** A tone nearer to grey than this has no axes of its own. */
export const NO_COLOUR = 1e-6

/**
 * @param picture  Encoded, at least three channels.
 * @param pixels  Of the region from which the tone is learnt, in reading order.
 * @param start  A tone known from elsewhere: of this one it is the nearest.
 * @returns null where there are too few pixels, or they have no colour.
 */
export function learnTone(
  picture: Raster,
  pixels: ArrayLike<number>,
  start: Tone | null = null,
): Tone | null {
  if (picture.channels < 3) return null
  const colours = coloursOf(picture, pixels)
  if (colours.length < VALUES * MIN_PIXELS) return null
  let tone = start ?? firstTone(colours)
  for (let round = 0; round < ROUNDS; round++) {
    const last = tone
    tone = refined(tone, colours)
    if (isSettled(last, tone)) break
  }
  return tone
}

/** Colours of the region, so many values each: brightness, the differences from grey, and how near the middle of the region it lies, 0 to 1. */
const VALUES = 4

function coloursOf({ data, width, channels }: Raster, pixels: ArrayLike<number>): Float32Array {
  const every = Math.max(1, Math.ceil(pixels.length / MAX_PIXELS))
  const count = Math.ceil(pixels.length / every)
  const [cols, rows] = [new Float32Array(count), new Float32Array(count)]
  for (let i = 0; i < count; i++) {
    rows[i] = Math.floor(pixels[every * i]! / width)
    cols[i] = pixels[every * i]! - width * rows[i]!
  }
  const [acrossAt, downAt] = [placesBetweenEnds(cols), placesBetweenEnds(rows)]
  const out = new Float32Array(VALUES * count)
  for (let i = 0, to = 0; i < count; i++, to += VALUES) {
    const at = pixels[every * i]! * channels
    const brightness = brightnessOf(data[at]!, data[at + 1]!, data[at + 2]!)
    const [x, y] = [acrossAt(cols[i]!), downAt(rows[i]!)]
    out[to] = brightness
    out[to + 1] = blueDifference(data[at + 2]!, brightness)
    out[to + 2] = redDifference(data[at]!, brightness)
    const near = Math.max(0, 1 - x * x - y * y)
    out[to + 3] = near * near
  }
  return out
}

/** From the first to the last of places −1 to 1. */
function placesBetweenEnds(places: Float32Array): (place: number) => number {
  const first = places.reduce((least, one) => Math.min(least, one), Infinity)
  const last = places.reduce((most, one) => Math.max(most, one), 0)
  const half = Math.max(1, (last - first) / 2)
  return (place) => (place - (first + last) / 2) / half
}

/** Cells in which colours are counted are so wide. */
const CELL = 0.012
const CELLS = Math.ceil(1 / CELL)

/** Where most colours lie together, of those in the published range, or of all; what lies in the middle of the region counts most. */
function firstTone(colours: Float32Array): Tone {
  const isIn = (value: number, [least, most]: readonly [number, number]) =>
    255 * value + 128 >= least && 255 * value + 128 <= most
  const likely: number[] = []
  for (let i = 0; i < colours.length; i += VALUES)
    if (isIn(colours[i + 1]!, PUBLISHED_RANGE.blue) && isIn(colours[i + 2]!, PUBLISHED_RANGE.red))
      likely.push(i)
  const all = Array.from({ length: colours.length / VALUES }, (_, k) => VALUES * k)
  const from = likely.length >= MIN_SHARE * all.length ? likely : all
  const counts = new Float32Array(CELLS * CELLS)
  const cellOf = (i: number) =>
    Math.floor((colours[i + 2]! + 0.5) / CELL) * CELLS + Math.floor((colours[i + 1]! + 0.5) / CELL)
  for (const i of from) counts[cellOf(i)]! += colours[i + 3]! + 1e-3
  const around = boxSums(counts, CELLS, CELLS, 1)
  const fullest = around.indexOf(around.reduce((most, one) => Math.max(most, one), 0))
  const [row, col] = [Math.floor(fullest / CELLS), fullest % CELLS]
  const [blue, red] = [(col + 0.5) * CELL - 0.5, (row + 0.5) * CELL - 0.5]
  const near = from.filter(
    (i) => Math.abs(colours[i + 1]! - blue) < 2 * CELL && Math.abs(colours[i + 2]! - red) < 2 * CELL,
  )
  const brightness = Float32Array.from(near, (i) => colours[i]!).sort()[near.length >> 1]!
  const colour = Math.sqrt(blue * blue + red * red) / Math.max(brightness, 1e-3)
  return {
    brightness,
    blue,
    red,
    slopes: { colour, hue: 0 },
    brightest: brightness + BRIGHTEST * FIRST_DEVIATIONS.brightness,
    deviations: FIRST_DEVIATIONS,
  }
}

/** Nothing of a tone has changed by more than a tenth of an 8-bit step. */
const isSettled = (a: Tone, b: Tone): boolean =>
  Math.max(
    Math.abs(a.brightness - b.brightness),
    Math.abs(a.blue - b.blue),
    Math.abs(a.red - b.red),
    Math.abs(a.deviations.brightness - b.deviations.brightness),
    Math.abs(a.deviations.colour - b.deviations.colour),
    Math.abs(a.deviations.hue - b.deviations.hue),
  ) < SETTLED

/** The line, and deviations from it, of what lies near. */
function refined(tone: Tone, colours: Float32Array): Tone {
  let [total, brightness, blue, red] = [0, 0, 0, 0]
  const squares = { brightness: 0, colour: 0, hue: 0 }
  const lines = { square: 0, colour: 0, hue: 0 }
  for (let i = 0; i < colours.length; i += VALUES) {
    const off = offFrom(tone, colours[i]!, colours[i + 1]!, colours[i + 2]!)
    const square = squareOf(off, tone.deviations) / (STRAY * STRAY)
    const say = 1 / ((1 + square) * (1 + square))
    total += say
    brightness += say * colours[i]!
    blue += say * colours[i + 1]!
    red += say * colours[i + 2]!
    squares.brightness += say * off.brightness * off.brightness
    squares.colour += say * off.colour * off.colour
    squares.hue += say * off.hue * off.hue
    const along = Math.min(colours[i]!, tone.brightest) - tone.brightness
    lines.square += say * along * along
    lines.colour += say * along * off.colour
    lines.hue += say * along * off.hue
  }
  const deviation = (axis: keyof ToneAxes) =>
    Math.min(MAX_DEVIATIONS[axis], Math.max(MIN_DEVIATIONS[axis], WIDEN * Math.sqrt(squares[axis] / total)))
  const middle = { brightness: brightness / total, blue: blue / total, red: red / total }
  const oneLight =
    Math.sqrt(middle.blue * middle.blue + middle.red * middle.red) / Math.max(middle.brightness, 1e-3)
  const held = ONE_LIGHT * total * MAX_DEVIATIONS.brightness * MAX_DEVIATIONS.brightness
  // What is left along the line turns it; one light only pulls it back.
  const colour =
    tone.slopes.colour + (lines.colour + held * (oneLight - tone.slopes.colour)) / (lines.square + held)
  const hue = tone.slopes.hue + (lines.hue - held * tone.slopes.hue) / (lines.square + held)
  const limited = (value: number, least: number, most: number) => Math.min(most, Math.max(least, value))
  return {
    ...middle,
    slopes: {
      colour: limited(colour, SLOPES.min * oneLight, SLOPES.max * oneLight),
      hue: limited(hue, -SLOPES.hue * oneLight, SLOPES.hue * oneLight),
    },
    brightest: middle.brightness + BRIGHTEST * deviation('brightness'),
    deviations: {
      brightness: deviation('brightness'),
      colour: deviation('colour'),
      hue: deviation('hue'),
    },
  }
}

/**
 * How far a colour is from a tone's line along its axes.
 * @param blue, red  Differences from grey.
 */
export function offFrom(tone: Tone, brightness: number, blue: number, red: number): ToneAxes {
  const length = Math.sqrt(tone.blue * tone.blue + tone.red * tone.red)
  if (length < NO_COLOUR) return { brightness: brightness - tone.brightness, colour: blue, hue: red }
  const [alongBlue, alongRed] = [tone.blue / length, tone.red / length]
  const along = Math.min(brightness, tone.brightest) - tone.brightness
  return {
    brightness: brightness - tone.brightness,
    colour:
      blue * alongBlue + red * alongRed - Math.max(DARKEST * length, length + tone.slopes.colour * along),
    hue: red * alongBlue - blue * alongRed - tone.slopes.hue * along,
  }
}

/** The squared distance in deviations. */
export function squareOf(off: ToneAxes, { brightness, colour, hue }: ToneAxes): number {
  const [a, b, c] = [off.brightness / brightness, off.colour / colour, off.hue / hue]
  return a * a + b * b + c * c
}
