/**
 * Bad pixels of a camera's sensor: places that differ from all around them on every frame, while the picture moves or the lens is
 * covered. Over time a moving picture averages out to something smooth; what stays sharp belongs to the camera.
 *
 * Dead: dark in every channel. Hot: bright in every channel. Stuck: bright in one. Demosaicing spreads a bad pixel into its
 * neighbours, so what is found is wider than one pixel. Source: common practice.
 */
import { medianOf } from '../image/median'
import type { ClipStatistics } from './clipStatistics'

export type BadPixelClass = 'dead' | 'hot' | 'stuck-red' | 'stuck-green' | 'stuck-blue' | 'cluster'

export interface BadPixel {
  readonly kind: 'pixel'
  readonly class: BadPixelClass
  /** Middle, px: the centre of a pixel lies at +0.5. */
  readonly x: number
  readonly y: number
  /** Width and height of all that differs, what demosaicing spread included. */
  readonly widthPx: number
  readonly heightPx: number
  /** 0 to 1. */
  readonly sure: number
  /** In words. */
  readonly why: string
}

/** What is around is asked on a square ring this far out: beyond a cluster of three and what is spread of it. */
const RING_PX = 4
/** So many deviations of the ring a bad pixel is off at least, and so far in the plate's scale. */
const DEVIATIONS = 7
/** The same of what is spread of one, and of a pixel that does not change at all. */
const FEWER_DEVIATIONS = 3
const UNCHANGING = 0.1
const LEAST_OFF = 5 / 255
/** A ring is never smoother than this, in deviations of the mean of its grain. */
const LEAST_SPREAD = 1
/** Of a group's strongest pixel: what is less has been spread from it. */
const CORE_SHARE = 0.6
const CLUSTER_FROM = 4 // px
/** A channel is off when it is off by this share of the strongest one. */
const CHANNEL_SHARE = 0.4
/** Mended wider than this it is no pixel. */
const WIDEST_PX = 7
/** Share of a single frame's detail that the mean still has, from which on the camera rests. */
const RESTS_FROM = 0.5
/** A bad pixel varies less than this share of what is around it: it does not see the picture. */
const VARIES_LESS = 0.35
const SURE_AT_REST = 0.4

export function findBadPixels(clip: ClipStatistics): BadPixel[] {
  const { width, height, channels, mean } = clip
  const colours = Math.min(3, channels)
  const off = new Float32Array(width * height * colours)
  const seeds: number[] = []
  const clear = new Set<number>()
  const ring = ringOffsets(width)
  const around = new Float64Array(ring.length)
  for (let row = RING_PX; row < height - RING_PX; row++) {
    for (let col = RING_PX; col < width - RING_PX; col++) {
      const pixel = row * width + col
      for (let c = 0; c < colours; c++) {
        const value = mean[pixel * channels + c]!
        // Most pixels are like the four on the ring across from them: no more is asked.
        if (isBetween(mean, pixel, c, value, width, channels)) continue
        ring.forEach((step, k) => (around[k] = mean[(pixel + step) * channels + c]!))
        const middle = medianOf([...around])
        const spread = 1.4826 * medianOf([...around].map((one) => Math.abs(one - middle)))
        const varies = medianOf(ring.map((step) => clip.variance[(pixel + step) * channels + c]!))
        const unit = Math.max(spread, LEAST_SPREAD * Math.sqrt(varies / clip.frames))
        const difference = value - middle
        if (Math.abs(difference) < Math.max(LEAST_OFF, FEWER_DEVIATIONS * unit)) continue
        off[pixel * colours + c] = difference
        if (seeds[seeds.length - 1] !== pixel) seeds.push(pixel)
        const isUnchanging = clip.variance[pixel * channels + c]! < UNCHANGING * varies
        if (isUnchanging || Math.abs(difference) >= DEVIATIONS * unit) clear.add(pixel)
      }
    }
  }
  const isResting = restShare(clip) > RESTS_FROM
  return groupsOf(seeds, width)
    .filter((group) => group.some((pixel) => clear.has(pixel)))
    .flatMap((group) => described(group, off, clip, isResting) ?? [])
}

function ringOffsets(width: number): number[] {
  const steps: number[] = []
  for (let dy = -RING_PX; dy <= RING_PX; dy++) {
    for (let dx = -RING_PX; dx <= RING_PX; dx++) if (Math.max(Math.abs(dx), Math.abs(dy)) === RING_PX) steps.push(dy * width + dx)
  }
  return steps
}

function isBetween(mean: Float32Array, pixel: number, c: number, value: number, width: number, channels: number): boolean {
  let [least, most] = [Infinity, -Infinity]
  for (const step of [-RING_PX, RING_PX, -RING_PX * width, RING_PX * width]) {
    const one = mean[(pixel + step) * channels + c]!
    if (one < least) least = one
    if (one > most) most = one
  }
  return value > least - LEAST_OFF / 2 && value < most + LEAST_OFF / 2
}

/** Pixels that touch, corners included. */
function groupsOf(seeds: readonly number[], width: number): number[][] {
  const left = new Set(seeds)
  const groups: number[][] = []
  for (const seed of seeds) {
    if (!left.delete(seed)) continue
    const group = [seed]
    for (let at = 0; at < group.length; at++) {
      for (let dy = -1; dy <= 1; dy++) {
        for (let dx = -1; dx <= 1; dx++) if (left.delete(group[at]! + dy * width + dx)) group.push(group[at]! + dy * width + dx)
      }
    }
    groups.push(group)
  }
  return groups
}

function described(group: readonly number[], off: Float32Array, clip: ClipStatistics, isResting: boolean): BadPixel | null {
  const { width } = clip
  const colours = Math.min(3, clip.channels)
  const strengthOf = (pixel: number) => {
    let most = 0
    for (let c = 0; c < colours; c++) if (Math.abs(off[pixel * colours + c]!) > Math.abs(most)) most = off[pixel * colours + c]!
    return most
  }
  const [cols, rows] = [group.map((pixel) => pixel % width), group.map((pixel) => Math.floor(pixel / width))]
  const [left, right, top, bottom] = [Math.min(...cols), Math.max(...cols), Math.min(...rows), Math.max(...rows)]
  if (right - left >= WIDEST_PX || bottom - top >= WIDEST_PX) return null
  const strongest = group.reduce((best, pixel) => (Math.abs(strengthOf(pixel)) > Math.abs(strengthOf(best)) ? pixel : best))
  const strength = strengthOf(strongest)
  const core = group.filter((pixel) => strengthOf(pixel) * Math.sign(strength) >= CORE_SHARE * Math.abs(strength))
  const isOff = Array.from({ length: colours }, (_, c) => off[strongest * colours + c]! * Math.sign(strength) > CHANNEL_SHARE * Math.abs(strength))
  const variesShare = varianceShare(clip, strongest, isOff, isResting)
  if (variesShare >= VARIES_LESS) return null // of the picture itself: it has the picture's grain and light
  const kind = core.length >= CLUSTER_FROM ? 'cluster' : classOf(isOff, strength)
  if (!kind) return null
  const x = core.reduce((sum, pixel) => sum + (pixel % width) + 0.5, 0) / core.length
  const y = core.reduce((sum, pixel) => sum + Math.floor(pixel / width) + 0.5, 0) / core.length
  const percent = Math.round(100 * Math.abs(strength))
  return {
    kind: 'pixel',
    class: kind,
    x,
    y,
    widthPx: extentOf(
      cols,
      core.map((pixel) => pixel % width),
    ),
    heightPx: extentOf(
      rows,
      core.map((pixel) => Math.floor(pixel / width)),
    ),
    sure: isResting ? SURE_AT_REST : Math.min(1, 0.6 + 0.4 * Math.min(1, Math.abs(strength) / (4 * LEAST_OFF))),
    why: isResting
      ? `${percent} % off what is around it on every frame. The camera rests, so it may be a light or a speck of the scene.`
      : `${percent} % off what is around it on every frame, while the picture moves.`,
  }
}

/** Of all that differs, and of at least one pixel around what is bad itself: demosaicing reaches so far, seen or not. */
const extentOf = (all: readonly number[], core: readonly number[]): number =>
  Math.max(...all, Math.max(...core) + 1) - Math.min(...all, Math.min(...core) - 1) + 1

function classOf(isOff: readonly boolean[], strength: number): BadPixelClass | null {
  const count = isOff.filter(Boolean).length
  if (strength < 0) return count === isOff.length ? 'dead' : null
  if (count === isOff.length) return 'hot'
  return count === 1 ? (['stuck-red', 'stuck-green', 'stuck-blue'] as const)[isOff.indexOf(true)]! : null
}

/**
 * How much a pixel varies over time in the channels that are off, against what is around it. Before a locked camera it is mostly the
 * light that varies: what is darker then varies less by itself.
 */
function varianceShare({ width, channels, variance, mean }: ClipStatistics, pixel: number, isOff: readonly boolean[], isResting: boolean): number {
  const ring = ringOffsets(width)
  const shares = isOff.flatMap((off, c) => {
    if (!off) return []
    const usual = medianOf(ring.map((step) => variance[(pixel + step) * channels + c]!))
    const around = medianOf(ring.map((step) => mean[(pixel + step) * channels + c]!))
    const dimmer = isResting ? Math.min(1, mean[pixel * channels + c]! / Math.max(1e-6, around)) : 1
    const expected = usual * dimmer * dimmer
    return [expected > 0 ? variance[pixel * channels + c]! / expected : isResting ? 1 : 0]
  })
  return medianOf(shares)
}

/** Share of one frame's detail that the mean of all still has: little where the picture moves, all of it before a locked camera. */
function restShare({ width, height, channels, mean, first, variance }: ClipStatistics): number {
  let [kept, had] = [0, 0]
  for (let row = 2; row < height - 2; row += 2) {
    for (let col = 2; col < width - 2; col += 2) {
      const at = (row * width + col) * channels
      const detail = (of: Float32Array) => of[at]! - (of[at - 2 * channels]! + of[at + 2 * channels]!) / 2
      kept += detail(mean) * detail(mean)
      had += Math.max(0, detail(first) * detail(first) - 1.5 * Math.min(variance[at]!, 16 / 65025))
    }
  }
  return had === 0 ? 0 : kept / had
}
