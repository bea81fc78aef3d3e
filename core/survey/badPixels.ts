/**
 * Bad pixels of a camera's sensor: places that differ from all around them on every frame, while the picture moves or the lens is
 * covered. Over time a moving picture averages out to something smooth; what stays sharp belongs to the camera.
 *
 * Dead: dark in every channel. Hot: bright in every channel. Stuck: bright in one. Demosaicing spreads a bad pixel into its
 * neighbours, so what is found is wider than one pixel. Source: common practice.
 */
import { medianOf, nthSmallest } from '../image/median'
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

/** Whether the picture moves; rests; or shows nothing but the sensor itself, its lens being covered. */
export type Rest = 'moves' | 'rests' | 'covered'

/** What is around is asked on a square ring this far out: beyond a cluster of three and what is spread of it. */
const RING_PX = 4
/** How far demosaicing spreads a bad pixel at most. */
const SPREAD_PX = 2
/** So many deviations of the ring a bad pixel is off before a covered lens; with less variance than the grain's, fewer. */
const DEVIATIONS = 7
const FEWER_DEVIATIONS = 3
const MIN_OFF = 5 / 255
/** A bad pixel varies less than this share of the plate's grain: it sees nothing. */
const QUIETER_THAN = 0.6
/** Variance that rounding to 8 bits brings by itself: less tells nothing. */
const ROUNDING = 0.02 / 65025
/** The grain is that of the quietest samples that are neither black nor white. */
const QUIETEST_SHARE = 0.02
const GREY = { from: 12 / 255, to: 240 / 255 } as const
/** Of a group's strongest pixel: what is less has been spread from it. */
const CORE_SHARE = 0.6
/** Share of what is strong that must see nothing. */
const CLEAR_SHARE = 0.75
const CLUSTER_FROM = 4 // px
/** A channel is off when it is off by this share of the strongest one. */
const CHANNEL_SHARE = 0.4
/** Mended wider than this it is no pixel. */
const WIDEST_PX = 7
/** Share of a single frame's detail that the mean still has, from which on the camera rests. */
const RESTS_FROM = 0.5
/** Brighter than this, or with more of a course than this from place to place, the picture shows a scene. */
const COVERED = { levelMost: 0.12, courseMost: 2.5 / 255 } as const
const SURE_AT_REST = 0.4

/** @param floors  Of each colour: see `grainFloors`. */
export function findBadPixels(
  clip: ClipStatistics,
  rest = restOf(clip),
  floors = grainFloors(clip),
): BadPixel[] {
  const { width, height, channels, mean, variance } = clip
  const colours = Math.min(3, channels)
  const quiet = floors.map((floor) => QUIETER_THAN * floor + ROUNDING)
  const off = new Map<number, number[]>()
  const seeds: number[] = []
  // As far from the edges that all around what demosaicing has spread there is a ring.
  const margin = RING_PX + SPREAD_PX
  for (let row = margin; row < height - margin; row++) {
    for (let col = margin; col < width - margin; col++) {
      const pixel = row * width + col
      for (let c = 0; c < colours; c++) {
        const at = pixel * channels + c
        // Almost all pixels are like the four on the ring across from them, or have the plate's grain: no more is asked.
        if (
          (rest !== 'covered' && variance[at]! > quiet[c]!) ||
          isBetween(mean, pixel, c, mean[at]!, width, channels)
        )
          continue
        if (isClear(clip, pixel, c, off, rest)) {
          seeds.push(pixel)
          break
        }
      }
    }
  }
  const around = new Set<number>()
  for (const seed of seeds) {
    for (let dy = -SPREAD_PX; dy <= SPREAD_PX; dy++)
      for (let dx = -SPREAD_PX; dx <= SPREAD_PX; dx++) around.add(seed + dy * width + dx)
  }
  const differs = [...around].filter((pixel) => offOf(clip, pixel, off).some((value) => value !== 0))
  const clear = new Set(seeds)
  return groupsOf(differs, width)
    .filter((group) => group.some((pixel) => clear.has(pixel)))
    .flatMap((group) => described(group, off, clip, clear, rest) ?? [])
}

/** How far a pixel is off its ring in each colour; 0 where that is no more than the ring's own spread. Worked out once. */
function offOf(clip: ClipStatistics, pixel: number, known: Map<number, number[]>): number[] {
  const before = known.get(pixel)
  if (before) return before
  const { width, channels, mean } = clip
  const ring = ringOffsets(width)
  const values = Array.from({ length: Math.min(3, channels) }, (_, c) => {
    const around = ring.map((step) => mean[(pixel + step) * channels + c]!)
    const difference = mean[pixel * channels + c]! - medianOf(around)
    return Math.abs(difference) < Math.max(MIN_OFF, FEWER_DEVIATIONS * spreadOf(clip, pixel, c, around))
      ? 0
      : difference
  })
  known.set(pixel, values)
  return values
}

/** Deviation of the ring, never below what grain leaves in its mean. */
function spreadOf(
  { width, channels, variance, frames }: ClipStatistics,
  pixel: number,
  c: number,
  around: readonly number[],
): number {
  const middle = medianOf(around)
  const varies = medianOf(ringOffsets(width).map((step) => variance[(pixel + step) * channels + c]!))
  return Math.max(1.4826 * medianOf(around.map((one) => Math.abs(one - middle))), Math.sqrt(varies / frames))
}

/** A pixel that never changes while all around it does need not be far off; of others more is asked. */
function isClear(
  clip: ClipStatistics,
  pixel: number,
  c: number,
  off: Map<number, number[]>,
  rest: Rest,
): boolean {
  const difference = offOf(clip, pixel, off)[c]!
  if (difference === 0) return false
  if (rest !== 'covered') return true
  const around = ringOffsets(clip.width).map((step) => clip.mean[(pixel + step) * clip.channels + c]!)
  return Math.abs(difference) >= DEVIATIONS * spreadOf(clip, pixel, c, around)
}

function ringOffsets(width: number): number[] {
  const steps: number[] = []
  for (let dy = -RING_PX; dy <= RING_PX; dy++) {
    for (let dx = -RING_PX; dx <= RING_PX; dx++)
      if (Math.max(Math.abs(dx), Math.abs(dy)) === RING_PX) steps.push(dy * width + dx)
  }
  return steps
}

function isBetween(
  mean: Float32Array,
  pixel: number,
  c: number,
  value: number,
  width: number,
  channels: number,
): boolean {
  let [min, max] = [Infinity, -Infinity]
  for (const step of [-RING_PX, RING_PX, -RING_PX * width, RING_PX * width]) {
    const one = mean[(pixel + step) * channels + c]!
    if (one < min) min = one
    if (one > max) max = one
  }
  return value > min - MIN_OFF / 2 && value < max + MIN_OFF / 2
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
        for (let dx = -1; dx <= 1; dx++)
          if (left.delete(group[at]! + dy * width + dx)) group.push(group[at]! + dy * width + dx)
      }
    }
    groups.push(group)
  }
  return groups
}

function described(
  group: readonly number[],
  off: Map<number, number[]>,
  clip: ClipStatistics,
  clear: Set<number>,
  rest: Rest,
): BadPixel | null {
  const { width } = clip
  const strengthOf = (pixel: number) =>
    off.get(pixel)!.reduce((max, one) => (Math.abs(one) > Math.abs(max) ? one : max), 0)
  const [cols, rows] = [group.map((pixel) => pixel % width), group.map((pixel) => Math.floor(pixel / width))]
  const [left, right, top, bottom] = [
    Math.min(...cols),
    Math.max(...cols),
    Math.min(...rows),
    Math.max(...rows),
  ]
  if (right - left >= WIDEST_PX || bottom - top >= WIDEST_PX) return null
  const strongest = group.reduce((best, pixel) =>
    Math.abs(strengthOf(pixel)) > Math.abs(strengthOf(best)) ? pixel : best,
  )
  const strength = strengthOf(strongest)
  const core = group.filter(
    (pixel) => strengthOf(pixel) * Math.sign(strength) >= CORE_SHARE * Math.abs(strength),
  )
  // What has the plate's grain is a thing of the scene.
  if (core.filter((pixel) => clear.has(pixel)).length < CLEAR_SHARE * core.length) return null
  const isOff = off
    .get(strongest)!
    .map((one) => one * Math.sign(strength) > CHANNEL_SHARE * Math.abs(strength))
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
    sure:
      rest === 'rests'
        ? SURE_AT_REST
        : Math.min(1, 0.6 + 0.4 * Math.min(1, Math.abs(strength) / (4 * MIN_OFF))),
    why: `${percent} % off what is around it on every frame${
      rest === 'rests'
        ? '. The camera rests, or nothing tells that it moves: it may be a light or a speck of the scene.'
        : rest === 'covered'
          ? ', while the lens is covered.'
          : ', while the picture moves.'
    }`,
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

/** For each colour the variance of the plate's grain where it is least: what any pixel that sees something has at least. */
export function grainFloors({ channels, variance, mean }: ClipStatistics): number[] {
  return Array.from({ length: Math.min(3, channels) }, (_, c) => {
    const greys: number[] = []
    for (let at = c; at < mean.length; at += 7 * channels)
      if (mean[at]! > GREY.from && mean[at]! < GREY.to) greys.push(variance[at]!)
    return greys.length === 0
      ? 0
      : nthSmallest(Float32Array.from(greys), greys.length, Math.floor(QUIETEST_SHARE * greys.length))
  })
}

export function restOf(clip: ClipStatistics): Rest {
  if (isCovered(clip)) return 'covered'
  return restShare(clip) > RESTS_FROM ? 'rests' : 'moves'
}

const BLOCK_PX = 16

/** Nothing but darkness, the same all over: blocks of the picture differ by no more than a sensor's own fall-off. */
function isCovered({ width, height, channels, mean }: ClipStatistics): boolean {
  const levels: number[] = []
  for (let top = 0; top + BLOCK_PX <= height; top += BLOCK_PX) {
    for (let left = 0; left + BLOCK_PX <= width; left += BLOCK_PX) {
      const values: number[] = []
      for (let row = top; row < top + BLOCK_PX; row += 2) {
        for (let col = left; col < left + BLOCK_PX; col += 2) {
          const at = (row * width + col) * channels
          for (let c = 0; c < Math.min(3, channels); c++) values.push(mean[at + c]!)
        }
      }
      // A sharp light is a scene's: what a block has most of is not all that counts.
      levels.push(medianOf(values))
    }
  }
  if (levels.length === 0) return false
  levels.sort((a, b) => a - b)
  return levels.at(-1)! < COVERED.levelMost && levels.at(-1)! - levels[0]! < COVERED.courseMost
}

/** Detail is told from samples this far to either side. */
const DETAIL_PX = 4
/** With less than this, in squares of 8-bit code values a sample, nothing tells whether the picture moves. */
const MIN_DETAIL = 0.7 / 65025

/** Share of one frame's detail that the mean of all still has: little where the picture moves, all of it before a locked camera. */
function restShare({ width, height, channels, mean, first, variance }: ClipStatistics): number {
  let [kept, had, count] = [0, 0, 0]
  for (let row = 0; row < height; row += 2) {
    for (let col = DETAIL_PX; col < width - DETAIL_PX; col += 2, count++) {
      const at = (row * width + col) * channels
      const [ofMean, ofFirst] = [detailAt(mean, at, channels), detailAt(first, at, channels)]
      kept += ofMean * ofMean
      had += ofFirst * ofFirst - 1.5 * Math.min(variance[at]!, 16 / 65025) // what grain alone has
    }
  }
  return had < MIN_DETAIL * count ? 1 : kept / had
}

/** More counts no more: a few bad pixels are not the picture. */
const MAX_DETAIL = 0.06

function detailAt(of: Float32Array, at: number, channels: number): number {
  const detail = of[at]! - (of[at - DETAIL_PX * channels]! + of[at + DETAIL_PX * channels]!) / 2
  return detail > MAX_DETAIL ? MAX_DETAIL : detail < -MAX_DETAIL ? -MAX_DETAIL : detail
}
