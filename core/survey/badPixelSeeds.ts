/**
 * Where bad pixels may be: one look at every sample of a clip's mean. Almost all pixels are like the four on the ring across from
 * them, or have the plate's grain and pass softly into their neighbours: no more is asked of those.
 */
import { MIN_OFF, RING_PX, type Surroundings } from './badPixelRing'
import type { ClipStatistics } from './clipStatistics'
import type { Rest } from './restOf'

/** How far demosaicing spreads a bad pixel at most. */
export const SPREAD_PX = 2
/** As far from the edges that all around what demosaicing has spread there is a ring. */
const MARGIN_PX = RING_PX + SPREAD_PX
/** So many deviations of the ring a bad pixel is off before a covered lens, where no scene tells it. */
const DEVIATIONS = 7
/** What has grain is brighter by so much at least, and by this share of it than all that touch it. */
export const WARM_OFF = 16 / 255
const ALONE_SHARE = 0.4
/** Of the strongest: what is less has been spread from it. */
export const CORE_SHARE = 0.6
/** What sees nothing has so many times the say. */
const BLIND_SAY = 2

export interface Seed {
  readonly pixel: number
  /** In which it is told. */
  readonly channel: number
  /** How far it is off, the sign left out. */
  readonly strength: number
  readonly isBlind: boolean
}

/** @param quiet  For each colour the variance below which a pixel sees nothing. @returns The strongest first. */
export function findSeeds(
  clip: ClipStatistics,
  surroundings: Surroundings,
  rest: Rest,
  quiet: readonly number[],
): Seed[] {
  const { width, height, channels, mean, variance } = clip
  const seeds: Seed[] = []
  for (let row = MARGIN_PX; row < height - MARGIN_PX; row++) {
    for (let col = MARGIN_PX; col < width - MARGIN_PX; col++) {
      const pixel = row * width + col
      let best: Seed | null = null
      let most = 0
      for (let c = 0; c < quiet.length; c++) {
        const at = pixel * channels + c
        const apart = apartFromRing(mean, at, width, channels)
        if (Math.abs(apart) < MIN_OFF / 2) continue
        const isBlind = variance[at]! <= quiet[c]!
        const isAsked =
          rest === 'covered' ||
          isBlind ||
          (apart >= WARM_OFF && standsAlone(mean, at, apart, width, channels))
        if (!isAsked) continue
        // What sees nothing is told by that: it need not stand out of a busy picture.
        const strength = Math.abs(
          isBlind && rest !== 'covered' ? blindOff(surroundings, pixel, c) : surroundings.offOf(pixel, c),
        )
        if (rest === 'covered' && strength < DEVIATIONS * surroundings.spreadOf(pixel, c)) continue
        // A channel that sees nothing tells more than one that does, unless it is hardly off.
        const say = strength * (isBlind ? BLIND_SAY : 1)
        if (say > most) {
          most = say
          best = { pixel, channel: c, strength, isBlind }
        }
      }
      if (best) seeds.push(best)
    }
  }
  return seeds.sort((a, b) => b.strength - a.strength || a.pixel - b.pixel)
}

function blindOff(surroundings: Surroundings, pixel: number, c: number): number {
  const difference = surroundings.differenceOf(pixel, c)
  return Math.abs(difference) < MIN_OFF ? 0 : difference
}

/**
 * How far a sample is beyond all but one of the four on its ring, which may show something else: above 0 where it is brighter, below where
 * it is darker, 0 where it lies between them.
 */
function apartFromRing(mean: Float32Array, at: number, width: number, channels: number): number {
  const value = mean[at]!
  const across = RING_PX * channels
  const down = across * width
  const a = value - mean[at - across]!
  const b = value - mean[at + across]!
  const c = value - mean[at - down]!
  const d = value - mean[at + down]!
  // The second and the third of the four differences in order, from two pairs.
  const less = Math.max(Math.min(a, b), Math.min(c, d))
  const more = Math.min(Math.max(a, b), Math.max(c, d))
  const second = Math.min(less, more)
  const third = Math.max(less, more)
  return second > 0 ? second : third < 0 ? third : 0
}

/** What hangs together with a sample is looked for so far to each side: wider it is no pixel that has grain. */
const ALONE_PX = 3
const ALONE_SIDE = 2 * ALONE_PX + 1
const isKnown = new Uint8Array(ALONE_SIDE * ALONE_SIDE)
const waiting = new Int32Array(ALONE_SIDE * ALONE_SIDE)

/**
 * Whether a sample, with those that touch it and are nearly as bright, is brighter than all that touch them.
 * @param apart  How much brighter than its ring it is.
 */
function standsAlone(
  mean: Float32Array,
  at: number,
  apart: number,
  width: number,
  channels: number,
): boolean {
  const strong = mean[at]! - (1 - CORE_SHARE) * apart
  const middle = ALONE_PX * ALONE_SIDE + ALONE_PX
  isKnown.fill(0)
  isKnown[middle] = 1
  waiting[0] = middle
  let [least, most] = [mean[at]!, -Infinity]
  for (let i = 0, count = 1; i < count; i++) {
    const row = (waiting[i]! / ALONE_SIDE) | 0
    const col = waiting[i]! - row * ALONE_SIDE
    if (row === 0 || col === 0 || row === ALONE_SIDE - 1 || col === ALONE_SIDE - 1) return false
    for (let dy = -1; dy <= 1; dy++) {
      for (let dx = -1; dx <= 1; dx++) {
        const cell = (row + dy) * ALONE_SIDE + col + dx
        if (isKnown[cell] === 1) continue
        isKnown[cell] = 1
        const level = mean[at + ((row + dy - ALONE_PX) * width + col + dx - ALONE_PX) * channels]!
        if (level < strong) {
          if (level > most) most = level
          continue
        }
        if (level < least) least = level
        waiting[count++] = cell
      }
    }
  }
  return least - most >= ALONE_SHARE * apart
}
