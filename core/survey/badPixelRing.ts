/** What lies around a pixel of a clip's mean, and how far the pixel is off it. */
import { nthSmallest } from '../image/median'
import type { ClipStatistics } from './clipStatistics'

/** What is around is asked on a square ring this far out: beyond a cluster of three and what is spread of it. */
export const RING_PX = 4
/** Less than this tells nothing. */
export const MIN_OFF = 5 / 255
/** Steps from pixel to pixel are measured so far around: as far as any pixel that is asked lies from the picture's edge. */
const ROUGH_PX = 5
const ROUGH_SHARE = 0.9
/** Off is what is off by so many deviations of the ring. */
const DEVIATIONS = 3

export class Surroundings {
  readonly #clip: ClipStatistics
  readonly #ring: readonly number[]
  /** Values of the ring, in any order. */
  readonly #work: Float64Array
  /** What was asked before, by sample. */
  readonly #known = new Map<number, number>()

  constructor(clip: ClipStatistics) {
    this.#clip = clip
    this.#ring = ringSteps(clip.width)
    this.#work = new Float64Array(this.#ring.length)
  }

  /** How far a pixel is off its ring in a colour; 0 where that is no more than the ring's own spread. */
  offOf(pixel: number, c: number): number {
    const key = pixel * this.#clip.channels + c
    let off = this.#known.get(key)
    if (off !== undefined) return off
    const difference = this.differenceOf(pixel, c)
    const isOff =
      Math.abs(difference) >= MIN_OFF && Math.abs(difference) >= DEVIATIONS * this.spreadOf(pixel, c)
    off = isOff ? difference : 0
    this.#known.set(key, off)
    return off
  }

  /** By how much a pixel differs from its ring, whatever the ring's spread. */
  differenceOf(pixel: number, c: number): number {
    return this.#clip.mean[pixel * this.#clip.channels + c]! - this.#medianAround(this.#clip.mean, pixel, c)
  }

  /** Deviation of the ring, never below what grain leaves in its mean. */
  spreadOf(pixel: number, c: number): number {
    const { mean, frames } = this.#clip
    const left = Math.sqrt(this.varianceAround(pixel, c) / frames)
    const middle = this.#medianAround(mean, pixel, c)
    for (let i = 0; i < this.#work.length; i++) this.#work[i] = Math.abs(this.#work[i]! - middle)
    return Math.max(1.4826 * this.#medianOfWork(), left)
  }

  /** How much the ring varies over time. */
  varianceAround(pixel: number, c: number): number {
    return this.#medianAround(this.#clip.variance, pixel, c)
  }

  #medianAround(of: Float32Array, pixel: number, c: number): number {
    const { channels } = this.#clip
    for (let i = 0; i < this.#work.length; i++) this.#work[i] = of[(pixel + this.#ring[i]!) * channels + c]!
    return this.#medianOfWork()
  }

  #medianOfWork(): number {
    return nthSmallest(this.#work, this.#work.length, this.#work.length >> 1)
  }

  /** What nine of ten steps between neighbours around a pixel stay below. @param own  Pixels that are not asked. */
  roughness(pixel: number, c: number, own: ReadonlySet<number>): number {
    const { width, channels, mean } = this.#clip
    const steps: number[] = []
    for (let dy = -ROUGH_PX; dy <= ROUGH_PX; dy++) {
      for (let dx = -ROUGH_PX; dx <= ROUGH_PX; dx++) {
        const one = pixel + dy * width + dx
        if (own.has(one)) continue
        for (const beside of [one + 1, one + width])
          if (!own.has(beside)) steps.push(Math.abs(mean[one * channels + c]! - mean[beside * channels + c]!))
      }
    }
    return steps.sort((a, b) => a - b)[Math.floor(ROUGH_SHARE * steps.length)]!
  }
}

function ringSteps(width: number): number[] {
  const steps: number[] = []
  for (let dy = -RING_PX; dy <= RING_PX; dy++) {
    for (let dx = -RING_PX; dx <= RING_PX; dx++)
      if (Math.max(Math.abs(dx), Math.abs(dy)) === RING_PX) steps.push(dy * width + dx)
  }
  return steps
}
