/**
 * Specks: dirt and sparkle that live one frame. What a frame shows and neither the frame before nor the one after it does, along
 * the motion, is a speck; where those two differ among themselves nothing can be told.
 *
 * Source: A. Kokaram, "Motion Picture Restoration", Springer 1998 (spike detection along the motion, both sides must agree), with the
 * range of the neighbours' neighbourhoods in place of single values as in M. Nadenau and S. Mitra, "Blotch and scratch detection in
 * image sequences based on rank ordered differences", 1996.
 */
import { medianOf } from '../../image/median'
import { atan2, cos, sin } from '../../kernels/exact'
import type { Frame } from '../../time'
import { BLOCK_PX, blockMotion, type BlockMotion, type Sizes } from './blockMotion'
import { LIGHT_MAX, type Light } from './light'
import { rangeAround, type Ranges } from './ranges'

export interface Speck {
  readonly frame: Frame
  /** Its middle, px. */
  readonly x: number
  readonly y: number
  /** Between the middles of its round ends, and across. */
  readonly lengthPx: number
  readonly widthPx: number
  readonly turnDeg: number
  /** 0 to 1. */
  readonly sure: number
}

/** A frame that specks are looked for in. */
export interface SpeckFrame extends Sizes {
  readonly frame: Frame
  readonly ranges: Ranges
  /** By how much the whole picture has moved since the frame before, cells of 4 px. */
  readonly shift: { readonly x: number; readonly y: number }
}

export const speckFrame = (frame: Frame, sizes: Sizes, shift: SpeckFrame['shift']): SpeckFrame => ({
  ...sizes,
  frame,
  shift,
  ranges: rangeAround(sizes.full),
})

/** Grain's deviations that a speck's strongest pixels stand out of the range of its neighbours in time by, and steps of light at least. */
const OUT_DEVIATIONS = 4
const OUT_LEAST = 14
/** And share of that range: a glint that a frame catches better than those beside it has structure there too. */
const OUT_SHARE = 0.8
/** And what belongs to it. */
const PART_DEVIATIONS = 2.5
const PART_LEAST = 6
const MIN_PIXELS = 2
const MAX_SIDE_PX = 96
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

/** A speck as far as the frames beside tell. */
export interface Candidate {
  readonly speck: Speck
  readonly pixels: readonly number[]
  /** How what it lies on goes to the next frame beside what the whole picture does, px. */
  readonly drift: { readonly x: number; readonly y: number }
}

/** What stood out on a frame: perhaps specks, and places where it was something else, by its middle, px. */
export interface SeenSpecks {
  readonly candidates: readonly Candidate[]
  readonly doubts: readonly { readonly frame: Frame; readonly x: number; readonly y: number }[]
}

/** @param a  The frames before and after, with by how much the whole picture goes to each, cells. */
export function specksOf(here: SpeckFrame, a: SpeckFrame, b: SpeckFrame, toA: Shift, toB: Shift): SeenSpecks {
  const beside = [
    { frame: a, motion: blockMotion(here, a, toA) },
    { frame: b, motion: blockMotion(here, b, toB) },
  ] as const
  const { full } = here
  const seen = { a: seenAlong(full, beside[0]), b: seenAlong(full, beside[1]) }
  relight(full, seen.a)
  relight(full, seen.b)
  const grain = grainOf(full, seen.a.values, seen.b.values)
  const seeds = seedsOf(full, seen, grain)
  if (seeds.length > MAX_SHARE * full.data.length) return { candidates: [], doubts: [] }
  const candidates: Candidate[] = []
  const doubts: { frame: Frame; x: number; y: number }[] = []
  for (const blotch of blotchesOf(full, seen.a.values, seen.b.values, grain, seeds)) {
    const speck = checked(here, seen.a.values, seen.b.values, grain, blotch)
    if (speck && (isComing(speck, full, toA) || isComing(speck, full, toB))) continue
    if (speck && !isElsewhere(full, a.full, blotch) && !isElsewhere(full, b.full, blotch))
      candidates.push({ speck, pixels: blotch.pixels, drift: driftAt(speck, here, a, beside[0].motion, toA) })
    else if (blotch.pixels.length >= MIN_DOUBT)
      doubts.push({ frame: here.frame, ...middleOf(blotch, full.width) })
  }
  return { candidates, doubts }
}

function driftAt({ x, y }: Speck, here: SpeckFrame, a: SpeckFrame, motion: BlockMotion, toA: Shift) {
  const block = Math.floor(y / BLOCK_PX) * motion.cols + Math.floor(x / BLOCK_PX)
  const frames = a.frame - here.frame
  return {
    x: (motion.dx[block]! - 4 * toA.x) / frames,
    y: (motion.dy[block]! - 4 * toA.y) / frames,
  }
}

/** So many px around where it is expected, and such a share of its contrast. */
const FEATURE_PX = 1
const FEATURE_SHARE = 0.45

/**
 * Whether another frame shows something of the same sign where the candidate's ground lies there: then it is of the scene, and this frame
 * has only caught it better.
 * @param goes  By how much the whole picture goes to that frame, px.
 */
export function isOfScene(
  { speck, pixels, drift }: Candidate,
  { width, height, data }: Light,
  other: Light,
  frames: number,
  goes: { readonly x: number; readonly y: number },
): boolean {
  const { own, beside } = lookedAt(pixels, width, data.length)
  const contrastAt = (light: Light, dx: number, dy: number): number => {
    let [inside, outside] = [0, 0]
    for (const at of own) inside += light.data[at + dy * width + dx]!
    for (const at of beside) outside += light.data[at + dy * width + dx]!
    return inside / own.length - outside / beside.length
  }
  const contrast = contrastAt({ width, height, data }, 0, 0)
  const [toX, toY] = [Math.round(goes.x + frames * drift.x), Math.round(goes.y + frames * drift.y)]
  const half = (speck.lengthPx + speck.widthPx) / 2 + FEATURE_PX + 3
  const [x, y] = [speck.x + toX, speck.y + toY]
  if (x < half || y < half || x > width - half || y > height - half) return false
  for (let dy = -FEATURE_PX; dy <= FEATURE_PX; dy++)
    for (let dx = -FEATURE_PX; dx <= FEATURE_PX; dx++) {
      const there = contrastAt(other, toX + dx, toY + dy)
      if (there * contrast > 0 && Math.abs(there) > FEATURE_SHARE * Math.abs(contrast)) return true
    }
  return false
}

const RIM_PX = 8

/** Whether a place has just come into the picture, or is about to leave it: another frame does not show it. */
function isComing({ x, y }: Speck, { width, height }: Light, shift: Shift): boolean {
  const [thereX, thereY] = [x + 4 * shift.x, y + 4 * shift.y]
  return thereX < RIM_PX || thereY < RIM_PX || thereX > width - RIM_PX || thereY > height - RIM_PX
}

/** Pixels of what stands out for another reason from which on it is counted. */
const MIN_DOUBT = 4

function middleOf({ pixels }: Blotch, width: number): { readonly x: number; readonly y: number } {
  const [first, last] = [pixels[0]!, pixels.at(-1)!]
  return {
    x: ((first % width) + (last % width) + 1) / 2,
    y: (((first / width) | 0) + ((last / width) | 0) + 1) / 2,
  }
}

type Shift = SpeckFrame['shift']

/** Another frame as it lies along the motion: its values, and the range of each one's neighbours. */
interface Seen {
  /** −1 where it lies outside. */
  readonly values: Int16Array
  readonly low: Int16Array
  readonly high: Int16Array
}

function seenAlong(
  { width, height }: Light,
  { frame, motion }: { readonly frame: SpeckFrame; readonly motion: BlockMotion },
): Seen {
  const size = width * height
  const out: { readonly values: Int16Array; readonly low: Int16Array; readonly high: Int16Array } = {
    values: new Int16Array(size).fill(-1),
    low: new Int16Array(size),
    high: new Int16Array(size).fill(LIGHT_MAX),
  }
  const { low, high } = frame.ranges
  const { data } = frame.full
  const blockRows = Math.ceil(height / BLOCK_PX)
  for (let block = 0; block < motion.cols * blockRows; block++) {
    const [dx, dy] = [motion.dx[block]!, motion.dy[block]!]
    const [col, row] = [(block % motion.cols) * BLOCK_PX, Math.floor(block / motion.cols) * BLOCK_PX]
    const first = Math.max(col, -dx)
    const past = Math.min(col + BLOCK_PX, width, width - dx)
    if (first >= past) continue
    for (let y = Math.max(row, -dy); y < Math.min(row + BLOCK_PX, height, height - dy); y++) {
      const away = dy * width + dx
      for (let at = y * width + first; at < y * width + past; at++) {
        out.values[at] = data[at + away]!
        out.low[at] = low[at + away]!
        out.high[at] = high[at + away]!
      }
    }
  }
  return out
}

/** Light may change from frame to frame, and not everywhere alike: tiles of so many px are brought to that of the frame. */
const TILE_PX = 64
const TILE_STEP = 3

function relight({ width, height, data }: Light, { values, low, high }: Seen): void {
  const offsets: number[] = []
  for (let top = 0; top < height; top += TILE_PX) {
    for (let left = 0; left < width; left += TILE_PX) {
      const [right, bottom] = [Math.min(left + TILE_PX, width), Math.min(top + TILE_PX, height)]
      offsets.length = 0
      for (let row = top; row < bottom; row += TILE_STEP)
        for (let at = row * width + left; at < row * width + right; at += TILE_STEP)
          if (values[at]! >= 0) offsets.push(data[at]! - values[at]!)
      const by = offsets.length === 0 ? 0 : Math.round(medianOf(offsets))
      if (by === 0) continue
      for (let row = top; row < bottom; row++) {
        for (let at = row * width + left; at < row * width + right; at++) {
          if (values[at]! < 0) continue
          values[at] = Math.max(0, values[at]! + by)
          low[at]! += by
          high[at]! += by
        }
      }
    }
  }
}

/** Bins of light in which grain is measured. */
const BINS = 16
const BIN_LIGHT = (LIGHT_MAX + 4) / BINS

/** Deviation of the grain of one frame, steps of light, at each bin: from what the frames beside differ by, grain of three frames taken apart. */
function grainOf({ data }: Light, a: Int16Array, b: Int16Array): Float32Array {
  const counts = new Int32Array(BINS * LIGHT_MAX)
  const totals = new Int32Array(BINS)
  for (let i = 0; i < data.length; i += 3) {
    if (a[i]! < 0 || b[i]! < 0) continue
    const bin = (data[i]! / BIN_LIGHT) | 0
    // The lesser of the two: what the motion of one of them missed is not grain.
    const off = Math.min(Math.abs(data[i]! - a[i]!), Math.abs(data[i]! - b[i]!))
    counts[bin * LIGHT_MAX + off]!++
    totals[bin]!++
  }
  const out = new Float32Array(BINS)
  let known = 0
  for (let bin = 0; bin < BINS; bin++) {
    const total = totals[bin]!
    if (total > 200) known = medianIn(counts.subarray(bin * LIGHT_MAX, (bin + 1) * LIGHT_MAX), total) / LESSER
    out[bin] = Math.max(1, known)
  }
  for (let bin = BINS - 2; bin >= 0; bin--)
    if (totals[bin]! <= 200) out[bin] = Math.max(out[bin]!, out[bin + 1]!)
  return out
}

/** The median of the lesser of two absolute differences that share one frame's grain, in deviations of that grain: by simulation. */
const LESSER = 0.55

function medianIn(counts: Int32Array, total: number): number {
  let sum = 0
  for (let off = 0; off < counts.length; off++) {
    sum += counts[off]!
    if (2 * sum >= total) return off + 0.5
  }
  return counts.length
}

const grainAt = (grain: Float32Array, light: number): number =>
  grain[light <= 0 ? 0 : Math.min(BINS - 1, (light / BIN_LIGHT) | 0)]!

/** Pixels outside the range of what both frames beside show around the same place: above 0 lighter, else darker; as places. */
function seedsOf(
  { data }: Light,
  { a, b }: { readonly a: Seen; readonly b: Seen },
  grain: Float32Array,
): Int32Array {
  const out = new Int32Array(data.length)
  let count = 0
  for (let i = 0; i < data.length; i++) {
    const value = data[i]!
    const [a0, b0] = [a.values[i]!, b.values[i]!]
    if (a0 < 0 || b0 < 0) continue
    const most = Math.max(a.high[i]!, b.high[i]!)
    const least = Math.min(a.low[i]!, b.low[i]!)
    const beyond = value > most ? value - most : least - value
    if (beyond <= OUT_LEAST || beyond <= OUT_SHARE * (most - least)) continue
    const limit = OUT_DEVIATIONS * grainAt(grain, (a0 + b0) >> 1)
    if (beyond > limit) out[count++] = i
  }
  return out.subarray(0, count)
}

interface Blotch {
  readonly pixels: readonly number[]
  readonly sign: 1 | -1
}

/** What stands out together with seeds. */
function blotchesOf(
  { width, data }: Light,
  a: Int16Array,
  b: Int16Array,
  grain: Float32Array,
  seeds: Int32Array,
): Blotch[] {
  const isTaken = new Uint8Array(data.length)
  const out: Blotch[] = []
  for (const seed of seeds) {
    if (isTaken[seed]) continue
    const sign = data[seed]! > a[seed]! ? 1 : -1
    const pixels = [seed]
    isTaken[seed] = 1
    for (let k = 0; k < pixels.length && pixels.length <= MAX_SIDE_PX * MAX_SIDE_PX; k++) {
      const col = pixels[k]! % width
      for (let dy = -1; dy <= 1; dy++) {
        for (let dx = -1; dx <= 1; dx++) {
          const at = pixels[k]! + dy * width + dx
          if (col + dx < 0 || col + dx >= width || at < 0 || at >= data.length || isTaken[at]) continue
          if (a[at]! < 0 || b[at]! < 0) continue
          const off = sign > 0 ? data[at]! - Math.max(a[at]!, b[at]!) : Math.min(a[at]!, b[at]!) - data[at]!
          if (off < Math.max(PART_LEAST, PART_DEVIATIONS * grainAt(grain, a[at]!))) continue
          isTaken[at] = 1
          pixels.push(at)
        }
      }
    }
    out.push({ pixels, sign })
  }
  return out
}

/** A blotch as a speck, where the frames beside agree within it and the surroundings are as they are there. */
function checked(
  { frame, full: { width, height, data } }: SpeckFrame,
  a: Int16Array,
  b: Int16Array,
  grain: Float32Array,
  { pixels, sign }: Blotch,
): Speck | null {
  const count = pixels.length
  if (count < MIN_PIXELS) return null
  const box = { left: width, top: height, right: 0, bottom: 0 }
  let [contrast, between, x, y, light] = [0, 0, 0, 0, 0]
  for (const at of pixels) {
    const [col, row] = [at % width, (at / width) | 0]
    box.left = Math.min(box.left, col)
    box.right = Math.max(box.right, col)
    box.top = Math.min(box.top, row)
    box.bottom = Math.max(box.bottom, row)
    contrast += sign * (data[at]! - (a[at]! + b[at]!) / 2)
    between += Math.abs(a[at]! - b[at]!)
    light += a[at]!
    x += col + 0.5
    y += row + 0.5
  }
  ;[contrast, between, x, y, light] = [contrast / count, between / count, x / count, y / count, light / count]
  if (Math.max(box.right - box.left, box.bottom - box.top) >= MAX_SIDE_PX) return null
  const deviation = grainAt(grain, light)
  // Grain alone makes two frames differ by so much on average.
  const usual = 1.13 * deviation
  if (between > usual + AGREE_SHARE * contrast) return null
  const around = aroundOf(data, a, b, width, height, box, new Set(pixels))
  if (around > usual + AROUND_SHARE * contrast) return null
  const sure =
    Math.min(1, contrast / (SURE_DEVIATIONS * deviation)) *
    Math.min(1, contrast / (SURE_TIMES * Math.max(around, between))) *
    Math.min(1, 0.55 + 0.15 * count)
  if (sure < MIN_SURE) return null
  const extent = extentOf(pixels, width, x, y)
  return isBuilt(extent) ? null : { frame, x, y, sure, ...extent }
}

/** Hairs lie any way; what is thin and lies level or upright is a joint or an edge that a frame has met pixel by pixel. */
const isBuilt = ({
  lengthPx,
  widthPx,
  turnDeg,
}: Pick<Speck, 'lengthPx' | 'widthPx' | 'turnDeg'>): boolean => {
  const off = Math.abs(turnDeg - 90 * Math.round(turnDeg / 90))
  return lengthPx > BUILT_TIMES * widthPx && off < BUILT_DEG
}

/** By how much the frame differs from those beside on a ring around a blotch, the greater of the two. */
function aroundOf(
  data: Int16Array,
  a: Int16Array,
  b: Int16Array,
  width: number,
  height: number,
  box: { readonly left: number; readonly top: number; readonly right: number; readonly bottom: number },
  own: ReadonlySet<number>,
): number {
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

/** How far a thing of its own is looked for, px; and what share of its contrast may differ there. */
const GOES_PX = 20
/** Of a small one, so many times its side: further off something like it is found by chance. */
const GOES_TIMES = 3
const SAME_SHARE = 0.3
/** So many of its pixels tell, and as many around it. */
const MAX_LOOKED_AT = 64

/** Whether another frame shows the same blotch nearby: then it is a thing that moves, not dirt. */
function isElsewhere({ width, height, data }: Light, other: Light, { pixels }: Blotch): boolean {
  const looked = lookedAt(pixels, width, data.length)
  let [inside, outside] = [0, 0]
  for (const at of looked.own) inside += data[at]!
  for (const at of looked.beside) outside += data[at]!
  const contrast = Math.abs(inside / looked.own.length - outside / looked.beside.length)
  const reach = Math.min(GOES_PX, Math.round(GOES_TIMES * Math.sqrt(pixels.length)))
  const differs = (places: readonly number[], dx: number, dy: number): boolean => {
    const most = SAME_SHARE * contrast * places.length
    let sum = 0
    for (let k = 0; k < places.length && sum < most; k++) {
      const at = places[k]!
      const [col, row] = [(at % width) + dx, ((at / width) | 0) + dy]
      const isInside = col >= 0 && row >= 0 && col < width && row < height
      sum += isInside ? Math.abs(data[at]! - other.data[row * width + col]!) : contrast
    }
    return sum >= most
  }
  for (let dy = -reach; dy <= reach; dy++)
    for (let dx = -reach; dx <= reach; dx++)
      if (!differs(looked.own, dx, dy) && !differs(looked.beside, dx, dy)) return true
  return false
}

/** Some of a blotch's pixels, and of those around it. */
function lookedAt(
  pixels: readonly number[],
  width: number,
  count: number,
): { readonly own: readonly number[]; readonly beside: readonly number[] } {
  const own = new Set(pixels)
  const around = new Set<number>()
  for (const at of pixels)
    for (const away of [-2, 2, -2 * width, 2 * width, -width - 1, width + 1, -width + 1, width - 1])
      if (!own.has(at + away)) around.add(at + away)
  const some = (all: readonly number[]) => {
    const every = Math.ceil(all.length / MAX_LOOKED_AT)
    return all.filter((_, i) => i % every === 0)
  }
  return { own: some(pixels), beside: some([...around].filter((at) => at >= 0 && at < count)) }
}

/** The soft edge of a speck is neither it nor its surroundings. */
const isBeside = (own: ReadonlySet<number>, at: number, width: number): boolean =>
  own.has(at - 1) || own.has(at + 1) || own.has(at - width) || own.has(at + width)

/** A blotch as a line with round ends: by its second moments along and across. */
function extentOf(
  pixels: readonly number[],
  width: number,
  x: number,
  y: number,
): Pick<Speck, 'lengthPx' | 'widthPx' | 'turnDeg'> {
  let [xx, xy, yy] = [0, 0, 0]
  for (const at of pixels) {
    const [dx, dy] = [(at % width) + 0.5 - x, ((at / width) | 0) + 0.5 - y]
    xx += dx * dx
    xy += dx * dy
    yy += dy * dy
  }
  const angle = atan2(2 * xy, xx - yy) / 2
  const [c, s] = [cos(angle), sin(angle)]
  let [along, across] = [0.5, 0.5]
  for (const at of pixels) {
    const [dx, dy] = [(at % width) + 0.5 - x, ((at / width) | 0) + 0.5 - y]
    along = Math.max(along, Math.abs(dx * c + dy * s) + 0.5)
    across = Math.max(across, Math.abs(dy * c - dx * s) + 0.5)
  }
  return {
    widthPx: 2 * across,
    lengthPx: Math.max(0, 2 * (along - across)),
    turnDeg: (angle * 180) / Math.PI,
  }
}
