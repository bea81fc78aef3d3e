/**
 * Bad pixels of a camera's sensor: places that differ from all around them on every frame.
 *
 * Two things tell them. A pixel that is dead, hot or stuck sees nothing: it lacks the grain that everything else has. And no bad
 * pixel came through the lens: it ends from one pixel to the next, where the smallest light is spread; a warm one, which keeps its grain over a
 * constant that is added, is told by that. While the picture moves, over time it averages out to something smooth, and what stays sharp belongs to
 * the camera; before a locked camera both together are asked. Demosaicing may spread a bad pixel into its neighbours.
 * Source: common practice.
 */
import { medianOf, nthSmallest } from '../image/median'
import { Surroundings, MIN_OFF } from './badPixelRing'
import { CORE_SHARE, findSeeds, SPREAD_PX, WARM_OFF, type Seed } from './badPixelSeeds'
import type { ClipStatistics } from './clipStatistics'
import type { SPOT_CLASSES } from './finds'
import { restOf, type Rest } from './restOf'

export type BadPixelClass = (typeof SPOT_CLASSES)[number]

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

/** A bad pixel varies less than this share of the plate's grain: it sees nothing. */
const QUIETER_THAN = 0.6
/** Variance that rounding to 8 bits brings by itself: less tells nothing. */
const ROUNDING = 0.02 / 65025
/** The grain is that of the quietest samples that are neither black nor white. */
const QUIETEST_SHARE = 0.02
const GREY = { from: 12 / 255, to: 240 / 255 } as const
/** Share of what is strong that must see nothing. */
const BLIND_SHARE = 0.75
const CLUSTER_FROM = 4 // px
/** A channel is off when it is off by this share of the strongest one, or as far as it can be. */
const CHANNEL_SHARE = 0.4
const WHITE = 0.9
/** Wider than this it is no pixel; what is sharp and has grain is narrower. */
const WIDEST_PX = 5
const WIDEST_WARM_PX = 3
/**
 * How far a pixel stands out: the share of its strength that lies between it and the strongest of all that touch it, more before a locked
 * camera, where the smallest lights rest too; and how many of the steps between neighbours around that is, so that a speck among specks is
 * none. Among such steps the share may be less, up to what is `allowed`. Set on the half of the practice set that sets.
 */
const STANDS_OUT = {
  shareUnsure: 0.25,
  share: 0.5,
  shareAtRest: 0.8,
  steps: 3.2,
  allowed: 0.22,
  offAtRest: 12 / 255,
} as const
/** A warm pixel varies as its surroundings do, not by more than so many times, and not less. A light that flickers does. */
const VARIES = { least: 0.3, most: 3 } as const
const WARM_AT_REST_OFF = 32 / 255

/** What tells a bad pixel, how sure that is before a locked camera, and in words. */
const TOLD = {
  covered: { sure: 1, words: ', while the lens is covered.' },
  moves: { sure: 1, words: ', while the picture moves.' },
  blind: { sure: 0.92, words: ', and sharper than the lens draws; it lacks the grain of what is around it.' },
  grain: { sure: 0.85, words: ', and sharper than the lens draws; it has the grain of what is around it.' },
  unsure: {
    sure: 0.4,
    words:
      '. The camera rests, or it is as soft as what the lens draws: it may be a light or a speck of the scene.',
  },
} as const

/** What a core is, by what it is told, and how sure that is. */
interface Verdict extends Pick<BadPixel, 'class' | 'sure'> {
  readonly by: keyof typeof TOLD
}

/** What is bad itself, without what was spread of it. */
interface Core {
  readonly pixels: readonly number[]
  /** In which channel it is told, and by how much its strongest pixel is off there. */
  readonly channel: number
  readonly strength: number
}

/** What tells a core. */
interface Evidence {
  /** For each colour, whether nothing is seen. */
  readonly isBlind: readonly boolean[]
  /** What lies between it and the strongest of all that touch it; below 0 where it does not stand out. */
  readonly gap: number
  /** What the steps between neighbours around stay below. */
  readonly roughness: number
  /** Varies as its surroundings do. */
  readonly hasGrain: boolean
}

/** @param floors  Of each colour: see `grainFloors`. */
export function findBadPixels(
  clip: ClipStatistics,
  rest = restOf(clip),
  floors = grainFloors(clip),
): BadPixel[] {
  const quiet = floors.map((floor) => QUIETER_THAN * floor + ROUNDING)
  const surroundings = new Surroundings(clip)
  const claimed = new Set<number>()
  const found: BadPixel[] = []
  for (const seed of findSeeds(clip, surroundings, rest, quiet)) {
    if (claimed.has(seed.pixel)) continue
    const core = coreAround(seed, surroundings, clip.width)
    for (const one of core.pixels) claimed.add(one)
    // Before a locked camera what is off beside it may be of the picture.
    const spread = rest === 'rests' ? [] : spreadOf(core, surroundings, clip.width)
    const evidence = evidenceOf(core, surroundings, clip, quiet)
    const told = verdictOf(core, evidence, rest, surroundings, clip)
    if (!told) continue
    for (const one of within(SPREAD_PX, core.pixels, clip.width)) claimed.add(one)
    found.push(described(core, spread, told, clip.width))
  }
  return found.sort((a, b) => a.y - b.y || a.x - b.x)
}

/** All that touches, corners included, and is nearly as far off. */
function coreAround({ pixel, channel, isBlind }: Seed, surroundings: Surroundings, width: number): Core {
  const offOf = (one: number) =>
    isBlind ? surroundings.differenceOf(one, channel) : surroundings.offOf(one, channel)
  const strength = offOf(pixel)
  const pixels = [pixel]
  const known = new Set(pixels)
  for (let at = 0; at < pixels.length && pixels.length <= WIDEST_PX * WIDEST_PX; at++) {
    for (const step of neighbours(width)) {
      const one = pixels[at]! + step
      if (known.has(one)) continue
      known.add(one)
      if (offOf(one) / strength >= CORE_SHARE) pixels.push(one)
    }
  }
  return { pixels, channel, strength }
}

/** What demosaicing has spread of a core: off to the same side, right beside it or beside what is. */
function spreadOf({ pixels, channel, strength }: Core, surroundings: Surroundings, width: number): number[] {
  const known = new Set(pixels)
  let rim: readonly number[] = pixels
  const spread: number[] = []
  for (let away = 1; away <= SPREAD_PX; away++) {
    const next: number[] = []
    for (const pixel of rim) {
      for (const step of neighbours(width)) {
        if (known.has(pixel + step)) continue
        known.add(pixel + step)
        if (surroundings.offOf(pixel + step, channel) * strength > 0) next.push(pixel + step)
      }
    }
    spread.push(...next)
    rim = next
  }
  return spread
}

const neighbours = (width: number): readonly number[] => [
  -width - 1, -width, -width + 1, -1, 1, width - 1, width, width + 1,
] // prettier-ignore

/** All pixels so near to any of these. */
function within(px: number, pixels: readonly number[], width: number): number[] {
  const side = 2 * px + 1
  const steps = Array.from(
    { length: side * side },
    (_, i) => (Math.floor(i / side) - px) * width + (i % side) - px,
  )
  return pixels.flatMap((pixel) => steps.map((step) => pixel + step))
}

function evidenceOf(
  { pixels, channel, strength }: Core,
  surroundings: Surroundings,
  { width, channels, mean, variance }: ClipStatistics,
  quiet: readonly number[],
): Evidence {
  const isBlind = quiet.map((most, c) => {
    const blind = pixels.filter((pixel) => variance[pixel * channels + c]! <= most)
    return blind.length >= BLIND_SHARE * pixels.length
  })
  const own = new Set(pixels)
  const levelOf = (pixel: number) => Math.sign(strength) * mean[pixel * channels + channel]!
  const beside = pixels.flatMap((pixel) => neighbours(width).map((step) => pixel + step))
  const touching = Math.max(...beside.filter((pixel) => !own.has(pixel)).map(levelOf))
  for (const pixel of beside) own.add(pixel)
  const varies =
    medianOf(pixels.map((pixel) => variance[pixel * channels + channel]!)) /
    surroundings.varianceAround(pixels[0]!, channel)
  return {
    isBlind,
    gap: Math.min(...pixels.map(levelOf)) - touching,
    roughness: surroundings.roughness(pixels[0]!, channel, own),
    hasGrain: varies > VARIES.least && varies < VARIES.most,
  }
}

/** @returns null where it is no bad pixel. */
function verdictOf(
  core: Core,
  evidence: Evidence,
  rest: Rest,
  surroundings: Surroundings,
  clip: ClipStatistics,
): Verdict | null {
  const { pixels, channel, strength } = core
  const isBlind = evidence.isBlind[channel]!
  const by = toldBy(core, evidence, rest, widestOf(pixels, clip.width))
  if (!by) return null
  const one = isBlind ? classOf(core, evidence.isBlind, surroundings, clip) : 'warm'
  const byStrength = 0.6 + 0.4 * Math.min(1, Math.abs(strength) / (4 * MIN_OFF))
  return {
    class: pixels.length >= CLUSTER_FROM ? 'cluster' : one,
    sure: by === 'covered' || by === 'moves' ? byStrength : TOLD[by].sure,
    by,
  }
}

function toldBy(
  { channel, strength }: Core,
  { isBlind, gap, roughness, hasGrain }: Evidence,
  rest: Rest,
  widest: number,
): Verdict['by'] | null {
  if (widest > WIDEST_PX) return null
  if (rest === 'covered') return 'covered'
  const off = Math.abs(strength)
  const share = rest === 'moves' ? STANDS_OUT.share : STANDS_OUT.shareAtRest
  const allowed = Math.min(roughness, STANDS_OUT.allowed * off)
  const standsOut = gap >= share * off - allowed && gap >= STANDS_OUT.steps * roughness
  if (isBlind[channel]) {
    if (standsOut && rest === 'moves') return 'moves'
    if (standsOut && gap >= STANDS_OUT.offAtRest) return 'blind'
    return gap < STANDS_OUT.shareUnsure * off ? null : 'unsure'
  }
  // What has the plate's grain, and ends as softly as the lens draws, is a thing of the scene.
  if (widest > WIDEST_WARM_PX || strength < WARM_OFF || !standsOut) return null
  if (rest === 'moves') return 'moves'
  return hasGrain && strength >= WARM_AT_REST_OFF ? 'grain' : null
}

function classOf(
  { pixels, channel, strength }: Core,
  isBlind: readonly boolean[],
  surroundings: Surroundings,
  clip: ClipStatistics,
): BadPixelClass {
  if (strength < 0) return 'dead'
  const { channels, mean } = clip
  const [strongest] = pixels as [number]
  const isOff = isBlind.map((blind, c) => {
    if (c === channel || !blind) return c === channel
    return (
      surroundings.offOf(strongest, c) > CHANNEL_SHARE * strength || mean[strongest * channels + c]! > WHITE
    )
  })
  return isOff.filter(Boolean).length > 1
    ? 'hot'
    : (['stuck-red', 'stuck-green', 'stuck-blue'] as const)[channel]!
}

function widestOf(pixels: readonly number[], width: number): number {
  const [cols, rows] = [
    pixels.map((pixel) => pixel % width),
    pixels.map((pixel) => Math.floor(pixel / width)),
  ]
  return 1 + Math.max(Math.max(...cols) - Math.min(...cols), Math.max(...rows) - Math.min(...rows))
}

function described(
  { pixels, strength }: Core,
  spread: readonly number[],
  { class: kind, sure, by }: Verdict,
  width: number,
): BadPixel {
  const colOf = (pixel: number) => pixel % width
  const rowOf = (pixel: number) => Math.floor(pixel / width)
  const all = [...pixels, ...spread]
  return {
    kind: 'pixel',
    class: kind,
    sure,
    x: pixels.reduce((sum, pixel) => sum + colOf(pixel) + 0.5, 0) / pixels.length,
    y: pixels.reduce((sum, pixel) => sum + rowOf(pixel) + 0.5, 0) / pixels.length,
    widthPx: extentOf(all.map(colOf), pixels.map(colOf)),
    heightPx: extentOf(all.map(rowOf), pixels.map(rowOf)),
    why: `${Math.round(100 * Math.abs(strength))} % off what is around it on every frame${TOLD[by].words}`,
  }
}

/** Of all that differs, and of at least one pixel around what is bad itself: demosaicing reaches so far, seen or not. */
const extentOf = (all: readonly number[], core: readonly number[]): number =>
  Math.max(...all, Math.max(...core) + 1) - Math.min(...all, Math.min(...core) - 1) + 1

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
