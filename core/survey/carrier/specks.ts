/**
 * Specks: dirt and sparkle that live one frame. What a frame shows and neither the frame before nor the one after it does, along
 * the motion, is a speck; where those two differ among themselves nothing can be told.
 *
 * Source: A. Kokaram, "Motion Picture Restoration", Springer 1998 (spike detection along the motion, both sides must agree), with the
 * range of the neighbours' neighbourhoods in place of single values as in M. Nadenau and S. Mitra, "Blotch and scratch detection in
 * image sequences based on rank ordered differences", 1996.
 */
import type { Place } from '../../geometry/transform'
import type { Frame } from '../../time'
import { besideOf } from './beside'
import { BLOCK_PX, blockMotion, type BlockMotion } from './blockMotion'
import { blotchesOf, extentOf, MAX_SIDE_PX, seedsOf, type Blotch, type Extent, type Look } from './blotches'
import { isElsewhere } from './elsewhere'
import type { Light } from './light'
import { grainAt, grainOf } from './lightGrain'
import type { Candidate, SeenSpecks, Speck, SpeckFrame } from './speck'

const MIN_PIXELS = 2
/** Share of a speck's own contrast by which the frames beside may differ there, and by which its surroundings may. */
const AGREE_SHARE = 0.4
const AROUND_SHARE = 0.4
const RING_PX = 3
/** What makes a speck sure: so many of the grain's deviations, and so many times what differs around it and within it. */
const SURE_DEVIATIONS = 10
const SURE_TIMES = 4
const MIN_SURE = 0.5
const BUILT_TIMES = 2
const BUILT_DEG = 5
/** More of a frame than this is no dirt: the motion was not found, or the light has changed. */
const MAX_SHARE = 0.02

export function specksOf(before: SpeckFrame, here: SpeckFrame, after: SpeckFrame): SeenSpecks {
  const { full } = here
  // By how much the whole picture goes to each of them.
  const shifts = { before: { x: -here.shift.x, y: -here.shift.y }, after: after.shift }
  const motion = {
    before: blockMotion(here, before, shifts.before),
    after: blockMotion(here, after, shifts.after),
  }
  const beside = {
    before: besideOf(full, before.full, before.ranges, motion.before),
    after: besideOf(full, after.full, after.ranges, motion.after),
  }
  const look = { light: full, ...beside, grain: grainOf(full, beside.before.values, beside.after.values) }
  const seeds = seedsOf(look)
  if (seeds.length > MAX_SHARE * full.data.length) return { candidates: [], doubts: [] }
  const candidates: Candidate[] = []
  const doubts: { frame: Frame; x: number; y: number }[] = []
  for (const blotch of blotchesOf(look, seeds)) {
    const speck = checked(look, here.frame, blotch)
    if (speck && (isComing(speck, full, shifts.before) || isComing(speck, full, shifts.after))) continue
    if (speck && !isElsewhere(full, before.full, blotch) && !isElsewhere(full, after.full, blotch))
      candidates.push({ speck, pixels: blotch.pixels, drift: driftAt(speck, motion.after, shifts.after) })
    else if (blotch.pixels.length >= MIN_DOUBT)
      doubts.push({ frame: here.frame, ...middleOf(blotch, full.width) })
  }
  return { candidates, doubts }
}

/** Blocks are found to whole px: what goes less far of its own goes with the picture. */
const MIN_DRIFT_PX = 1

function driftAt({ x, y }: Speck, motion: BlockMotion, shift: Place): Place {
  const block = Math.floor(y / BLOCK_PX) * motion.cols + Math.floor(x / BLOCK_PX)
  const drift = { x: motion.dx[block]! - 4 * shift.x, y: motion.dy[block]! - 4 * shift.y }
  return Math.max(Math.abs(drift.x), Math.abs(drift.y)) < MIN_DRIFT_PX ? { x: 0, y: 0 } : drift
}

const RIM_PX = 8

/** Whether a place has just come into the picture, or is about to leave it: another frame does not show it. */
function isComing({ x, y }: Speck, { width, height }: Light, shift: Place): boolean {
  const [thereX, thereY] = [x + 4 * shift.x, y + 4 * shift.y]
  return thereX < RIM_PX || thereY < RIM_PX || thereX > width - RIM_PX || thereY > height - RIM_PX
}

/** Pixels of what stands out for another reason from which on it is counted. */
const MIN_DOUBT = 4

function middleOf({ pixels }: Blotch, width: number): Place {
  const [first, last] = [pixels[0]!, pixels.at(-1)!]
  return {
    x: ((first % width) + (last % width) + 1) / 2,
    y: (((first / width) | 0) + ((last / width) | 0) + 1) / 2,
  }
}

/** A blotch as a speck, where the frames beside agree within it and the surroundings are as they are there. */
function checked(look: Look, frame: Frame, blotch: Blotch): Speck | null {
  const { light: { width, height, data }, before, after, grain } = look // prettier-ignore
  const { pixels, sign } = blotch
  const [a, b] = [before.values, after.values]
  const count = pixels.length
  if (count < MIN_PIXELS) return null
  const box = { left: width, top: height, right: 0, bottom: 0 }
  let [contrast, between, x, y, lightness] = [0, 0, 0, 0, 0]
  for (const at of pixels) {
    const [col, row] = [at % width, (at / width) | 0]
    box.left = Math.min(box.left, col)
    box.right = Math.max(box.right, col)
    box.top = Math.min(box.top, row)
    box.bottom = Math.max(box.bottom, row)
    contrast += sign * (data[at]! - (a[at]! + b[at]!) / 2)
    between += Math.abs(a[at]! - b[at]!)
    lightness += a[at]!
    x += col + 0.5
    y += row + 0.5
  }
  ;[contrast, between, x, y, lightness] = [contrast, between, x, y, lightness].map((sum) => sum / count) as [number, number, number, number, number] // prettier-ignore
  if (Math.max(box.right - box.left, box.bottom - box.top) >= MAX_SIDE_PX) return null
  const deviation = grainAt(grain, lightness)
  // Grain alone makes two frames differ by so much on average.
  const usual = 1.13 * deviation
  if (between > usual + AGREE_SHARE * contrast) return null
  const around = aroundOf(look, box, new Set(pixels))
  if (around > usual + AROUND_SHARE * contrast) return null
  const sure =
    Math.min(1, contrast / (SURE_DEVIATIONS * deviation)) *
    Math.min(1, contrast / (SURE_TIMES * Math.max(around, between))) *
    Math.min(1, 0.55 + 0.15 * count)
  if (sure < MIN_SURE) return null
  const extent = extentOf(blotch, width, { x, y })
  return isBuilt(extent) ? null : { frame, x, y, sure, ...extent }
}

/** Hairs lie any way; what is thin and lies level or upright is a joint or an edge that a frame has met pixel by pixel. */
const isBuilt = ({ lengthPx, widthPx, turnDeg }: Extent): boolean => {
  const off = Math.abs(turnDeg - 90 * Math.round(turnDeg / 90))
  return lengthPx > BUILT_TIMES * widthPx && off < BUILT_DEG
}

interface Box {
  readonly left: number
  readonly top: number
  readonly right: number
  readonly bottom: number
}

/** By how much the frame differs from those beside on a ring around a blotch, the greater of the two. */
function aroundOf(
  { light: { width, height, data }, before, after }: Look,
  box: Box,
  own: ReadonlySet<number>,
): number {
  const [a, b] = [before.values, after.values]
  let [offA, offB, count] = [0, 0, 0]
  for (
    let row = Math.max(0, box.top - RING_PX - 1);
    row <= Math.min(height - 1, box.bottom + RING_PX + 1);
    row++
  ) {
    for (
      let col = Math.max(0, box.left - RING_PX - 1);
      col <= Math.min(width - 1, box.right + RING_PX + 1);
      col++
    ) {
      const at = row * width + col
      if (own.has(at) || isBeside(own, at, width) || a[at]! < 0 || b[at]! < 0) continue
      offA += Math.abs(data[at]! - a[at]!)
      offB += Math.abs(data[at]! - b[at]!)
      count++
    }
  }
  return count === 0 ? Infinity : Math.max(offA, offB) / count
}

/** The soft edge of a speck is neither it nor its surroundings. */
const isBeside = (own: ReadonlySet<number>, at: number, width: number): boolean =>
  own.has(at - 1) || own.has(at + 1) || own.has(at - width) || own.has(at + width)
