/**
 * Where bad pixels may be: one look at every sample of a clip's mean. Almost all pixels are like the four on the ring across from
 * them, or have the plate's grain and pass softly into their neighbours: no more is asked of those.
 */
import type { Surroundings } from './badPixelRing'
import { MIN_OFF, RING_PX } from './badPixelRing'
import type { ClipStatistics } from './clipStatistics'
import type { Rest } from './restOf'

/** How far demosaicing spreads a bad pixel at most. */
export const SPREAD_PX = 2
/** As far from the edges that all around what demosaicing has spread there is a ring. */
const MARGIN_PX = RING_PX + SPREAD_PX
/** So many deviations of the ring a bad pixel is off before a covered lens, where no scene tells it. */
const DEVIATIONS = 7
/** What has grain is off by so much at least, and by this share of it more than a pixel right beside. */
export const WARM_OFF = 16 / 255
const SHARP_SHARE = 0.6
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
        if (apart < MIN_OFF / 2) continue
        const isBlind = variance[at]! <= quiet[c]!
        const isAsked =
          rest === 'covered' ||
          isBlind ||
          (apart >= WARM_OFF && isSharp(mean, at, SHARP_SHARE * apart, width, channels))
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

/** How far a sample is beyond all but one of the four on its ring, which may show something else; 0 where it is between them. */
function apartFromRing(mean: Float32Array, at: number, width: number, channels: number): number {
  const value = mean[at]!
  const [across, down] = [RING_PX * channels, RING_PX * width * channels]
  const [a, b] = [value - mean[at - across]!, value - mean[at + across]!]
  const [c, d] = [value - mean[at - down]!, value - mean[at + down]!]
  // Of two pairs: the second least and the second greatest of all four.
  const [lessAB, moreAB] = a < b ? [a, b] : [b, a]
  const [lessCD, moreCD] = c < d ? [c, d] : [d, c]
  const second = Math.min(Math.max(lessAB, lessCD), Math.min(moreAB, moreCD))
  const third = Math.max(Math.min(moreAB, moreCD), Math.max(lessAB, lessCD))
  return Math.max(second, -third, 0)
}

/** Whether a sample differs by so much from one right beside it. */
function isSharp(mean: Float32Array, at: number, by: number, width: number, channels: number): boolean {
  const value = mean[at]!
  return (
    Math.abs(value - mean[at - channels]!) >= by ||
    Math.abs(value - mean[at + channels]!) >= by ||
    Math.abs(value - mean[at - width * channels]!) >= by ||
    Math.abs(value - mean[at + width * channels]!) >= by
  )
}
