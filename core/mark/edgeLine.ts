/**
 * What a mark of one colour does to the picture, by its own edges: across each of them the picture with the mark lies on one line over the picture
 * without it, whatever that shows. Lines that many edges agree on: M. A. Fischler and R. C. Bolles, "Random sample consensus", CACM 24(6), 1981.
 */
import type { Raster } from '../image/raster'
import { createRandom } from '../random'
import type { MarkLine } from './edgeShares'

/** Places on two sides of an edge, as indices: `a` without the mark and `b` with it. */
export interface EdgePair {
  readonly a: number
  readonly b: number
}

interface Tolerance {
  readonly opacity: number
  readonly colour: number
}

/** The two sides of an edge are compared so far from each other, px: the edge itself is soft. */
export const APART_PX = 3
/** Smaller jumps, summed over channels, are no edges. */
const MIN_JUMP = 0.04
/** The picture beside an edge changes by less than this share of its jump. */
const FLAT_SHARE = 0.25
const MIN_PAIRS = 8
const MAX_PAIRS = 3000
const DRAWS = 600
/** Edges that agree are off by less, mean of channels. */
const FIT = 0.012
/** Edges tell a line where their grounds differ by so much, mean of squares. */
const MIN_SPREAD = 0.004
const OPACITIES = { min: 0.05, max: 0.97 }
/** Colours that are further outside 0 to 1 are none. */
const OUTSIDE = 0.04
const MOST_LINES = 5
/** Lines that differ by less are fitted to the same edges, and once fitted are the same. */
const ALIKE: Tolerance = { opacity: 0.05, colour: 0.08 }
const SAME: Tolerance = { opacity: 0.008, colour: 0.02 }
/** White and black: most marks are one of them. */
const USUAL_LEVELS = [1, 0]

/**
 * Lines that edges agree on, the most agreed on first, each also with the usual colours.
 * @param asked  1 where the mark may lie: of an edge at least one side must.
 */
export function linesOfEdges(plate: Raster, asked: Uint8Array): readonly MarkLine[] {
  const pairs = edgesIn(plate, asked)
  if (pairs.length < MIN_PAIRS) return []
  const random = createRandom(7)
  const draw = (): EdgePair => {
    const { a, b } = pairs[Math.floor(random() * pairs.length)]!
    return random() < 0.5 ? { a, b } : { a: b, b: a }
  }
  const drawn: { readonly line: MarkLine; readonly score: number }[] = []
  for (let i = 0; i < DRAWS; i++) {
    const line = lineThrough(plate, [draw(), draw()])
    if (line)
      drawn.push({ line, score: pairs.reduce((sum, pair) => sum + agreementOf(plate, line, pair), 0) })
  }
  const best = drawn.sort((one, other) => other.score - one.score).map(({ line }) => line)
  const fitted = distinctOf(best, ALIKE, MOST_LINES).flatMap((line) => {
    const agreeing = pairs.flatMap((pair) => inOrder(plate, line, pair) ?? [])
    const fitted = lineThrough(plate, agreeing) ?? line
    const usual = USUAL_LEVELS.flatMap(
      (level) =>
        lineAbout(
          plate,
          agreeing,
          fitted.colour.map(() => level),
        ) ?? [],
    )
    return [fitted, ...usual]
  })
  return distinctOf(fitted, SAME, Infinity)
}

/** The first of all lines that are alike. */
function distinctOf(lines: readonly MarkLine[], alike: Tolerance, most: number): readonly MarkLine[] {
  const out: MarkLine[] = []
  for (const line of lines) {
    if (out.length >= most) break
    if (!out.some((one) => isAlike(one, line, alike))) out.push(line)
  }
  return out
}

/** All of the picture: a side that is not asked is bare ground. */
function edgesIn(plate: Raster, asked: Uint8Array): readonly EdgePair[] {
  const { width, height } = plate
  const out: EdgePair[] = []
  for (let row = 1; row < height - APART_PX - 1; row++) {
    for (let col = 1; col < width - APART_PX - 1; col++) {
      const a = row * width + col
      for (const step of [1, width]) {
        const b = a + APART_PX * step
        if (asked[a] !== 1 && asked[b] !== 1) continue
        const jump = jumpOf(plate, a, b)
        const most = FLAT_SHARE * jump
        if (jump >= MIN_JUMP && jumpOf(plate, a, a - step) <= most && jumpOf(plate, b, b + step) <= most)
          out.push({ a, b })
      }
    }
  }
  const every = Math.max(1, Math.ceil(out.length / MAX_PAIRS))
  return out.filter((_, i) => i % every === 0)
}

function jumpOf({ data, channels }: Raster, a: number, b: number): number {
  let jump = 0
  for (let c = 0; c < channels; c++) jump += Math.abs(data[a * channels + c]! - data[b * channels + c]!)
  return jump
}

const isAlike = (one: MarkLine, other: MarkLine, { opacity, colour }: Tolerance): boolean =>
  Math.abs(one.opacity - other.opacity) < opacity &&
  one.colour.every((level, c) => Math.abs(level - other.colour[c]!) < colour)

/** How far the picture with the mark is off the line, mean of channels. */
function offLine({ data, channels }: Raster, { opacity, colour }: MarkLine, a: number, b: number): number {
  let off = 0
  for (let c = 0; c < channels; c++)
    off += Math.abs(data[b * channels + c]! - (1 - opacity) * data[a * channels + c]! - opacity * colour[c]!)
  return off / channels
}

/** 1 where an edge lies on the line, to 0 where it does not; whichever side is the mark's. */
function agreementOf(plate: Raster, line: MarkLine, { a, b }: EdgePair): number {
  const off = Math.min(offLine(plate, line, a, b), offLine(plate, line, b, a)) / FIT
  return Math.max(0, 1 - off * off)
}

/** The edge with its sides in order; null where it does not agree. */
function inOrder(plate: Raster, line: MarkLine, { a, b }: EdgePair): EdgePair | null {
  const [there, back] = [offLine(plate, line, a, b), offLine(plate, line, b, a)]
  if (Math.min(there, back) >= FIT) return null
  return there <= back ? { a, b } : { a: b, b: a }
}

/**
 * The line through edges. Both sides are off alike, as no ground is the same some px on: the slope is the ratio of their deviations, the reduced major
 * axis (common practice).
 * @returns null where they do not tell one.
 */
export function lineThrough(plate: Raster, pairs: readonly EdgePair[]): MarkLine | null {
  const { data, channels } = plate
  const [meansA, meansB] = [new Float64Array(channels), new Float64Array(channels)]
  for (const { a, b } of pairs) {
    for (let c = 0; c < channels; c++) {
      meansA[c]! += data[a * channels + c]! / pairs.length
      meansB[c]! += data[b * channels + c]! / pairs.length
    }
  }
  let [cross, squareA, squareB] = [0, 0, 0]
  for (const { a, b } of pairs) {
    for (let c = 0; c < channels; c++) {
      const [offA, offB] = [data[a * channels + c]! - meansA[c]!, data[b * channels + c]! - meansB[c]!]
      cross += offA * offB
      squareA += offA * offA
      squareB += offB * offB
    }
  }
  if (cross <= 0 || squareA < MIN_SPREAD * pairs.length) return null
  const opacity = 1 - Math.sqrt(squareB / squareA)
  if (!isOpacity(opacity)) return null
  const colour = Array.from(meansB, (mean, c) => (mean - (1 - opacity) * meansA[c]!) / opacity)
  if (colour.some((one) => one < -OUTSIDE || one > 1 + OUTSIDE)) return null
  if (colour.every((one) => one >= 0 && one <= 1)) return { opacity, colour }
  return lineAbout(
    plate,
    pairs,
    colour.map((one) => Math.min(1, Math.max(0, one))),
  )
}

const isOpacity = (one: number): boolean => one >= OPACITIES.min && one <= OPACITIES.max

/** The same where the colour is known. */
export function lineAbout(
  { data, channels }: Raster,
  pairs: readonly EdgePair[],
  colour: readonly number[],
): MarkLine | null {
  let [bare, marked] = [0, 0]
  for (const { a, b } of pairs) {
    for (let c = 0; c < channels; c++) {
      const [offA, offB] = [data[a * channels + c]! - colour[c]!, data[b * channels + c]! - colour[c]!]
      bare += offA * offA
      marked += offB * offB
    }
  }
  const opacity = 1 - Math.sqrt(marked / bare)
  return isOpacity(opacity) ? { opacity, colour } : null
}
