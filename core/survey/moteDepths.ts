/**
 * How much light is missing at each place of the frame: frames laid over each other by the picture's own shift. The bounded mean is that of
 * robust statistics (P. J. Huber, 1964).
 */
import { medianOf } from '../image/median'
import type { Plane } from '../image/raster'
import { shiftBetween, type Levels } from './shift'

/** One pair says no more than this. */
const MAX_STOPS = 1.2
/** From so many pairs on what strays further than this from their mean counts no more than this: another mote, a thing that moves by itself. */
const MIN_TO_BOUND = 3
const STRAY_STOPS = 0.35
/** So many pairs must have shown a place, from either side. */
const MIN_PAIRS = 4

/** A frame, and how far the picture has gone by then, cells. */
export interface Key {
  readonly levels: Levels
  readonly x: number
  readonly y: number
}

/** Sums over pairs, on one side of time. */
export interface Side {
  readonly sum: Float32Array
  readonly count: Uint16Array
}

/** Adds what each frame has less of light than the other at the same place of the scene. */
export function layOver(a: Key, b: Key, sides: readonly Side[]): void {
  const [from, to] = [a.levels[0]!, b.levels[0]!]
  const { width, height } = from
  const near = { x: b.x - a.x, y: b.y - a.y }
  const { x, y } = shiftBetween(a.levels, b.levels, near)
  const light = lightChange(from, to, Math.round(x), Math.round(y))
  addSide(sides[0]!, from, to, x, y, light, width, height)
  addSide(sides[1]!, to, from, -x, -y, -light, width, height)
}

/** `here` against what lies at the same place of the scene in `there`. @param light  By how many stops `there` is brighter as a whole. */
function addSide(
  side: Side,
  here: Plane,
  there: Plane,
  x: number,
  y: number,
  light: number,
  width: number,
  height: number,
): void {
  const [wholeX, wholeY] = [Math.floor(x), Math.floor(y)]
  const [fx, fy] = [x - wholeX, y - wholeY]
  const [left, right] = [Math.max(0, -wholeX), Math.min(width, width - 1 - wholeX)]
  const [top, bottom] = [Math.max(0, -wholeY), Math.min(height, height - 1 - wholeY)]
  const weights = [(1 - fx) * (1 - fy), fx * (1 - fy), (1 - fx) * fy, fx * fy] as const
  for (let row = top; row < bottom; row++) {
    const at = row * width + left
    addRow(
      side,
      here.data,
      there.data,
      at,
      (row + wholeY) * width + left + wholeX,
      width,
      right - left,
      weights,
      light,
    )
  }
}

function addRow(
  { sum, count }: Side,
  here: Float32Array,
  there: Float32Array,
  at: number,
  other: number,
  width: number,
  length: number,
  [w00, w10, w01, w11]: readonly [number, number, number, number],
  light: number,
): void {
  for (let i = 0; i < length; i++) {
    const q = other + i
    const seen = w00 * there[q]! + w10 * there[q + 1]! + w01 * there[q + width]! + w11 * there[q + width + 1]!
    const pairs = count[at + i]!
    const middle = pairs < MIN_TO_BOUND ? 0 : sum[at + i]! / pairs
    const max = pairs < MIN_TO_BOUND ? MAX_STOPS : STRAY_STOPS
    const off = here[at + i]! - seen + light - middle
    sum[at + i]! += middle + (off < -max ? -max : off > max ? max : off)
    count[at + i] = pairs + 1
  }
}

/** By how many stops the second frame is brighter, on every eighth cell that both have. */
function lightChange(a: Plane, b: Plane, x: number, y: number): number {
  const differences: number[] = []
  for (let row = Math.max(0, -y); row < Math.min(a.height, b.height - y); row += 8) {
    for (let col = Math.max(0, -x); col < Math.min(a.width, b.width - x); col += 8) {
      differences.push(b.data[(row + y) * b.width + col + x]! - a.data[row * a.width + col]!)
    }
  }
  return differences.length === 0 ? 0 : medianOf(differences)
}

export interface Depths {
  /** Stops that are missing: NaN where too little was seen. */
  readonly depths: Float32Array
  /** What the side that says less says. */
  readonly lighter: Float32Array
  /** 1 where only one side was seen: near the picture's edges. */
  readonly isOneSided: Uint8Array
}

/**
 * Of both sides the one that says less: a mote shows in both. Where both say that it is dark, the one that says more: what is laid over
 * it was now and then seen through another mote.
 */
export function depthsOf(sides: readonly Side[]): Depths {
  const [before, after] = sides as [Side, Side]
  const [depths, lighter] = [new Float32Array(before.sum.length), new Float32Array(before.sum.length)]
  const isOneSided = new Uint8Array(depths.length)
  for (let i = 0; i < depths.length; i++) {
    const [a, b] = [before.count[i]!, after.count[i]!]
    const [depthA, depthB] = [before.sum[i]! / a, after.sum[i]! / b]
    if (a >= MIN_PAIRS && b >= MIN_PAIRS) {
      lighter[i] = depthA < depthB ? depthB : depthA
      depths[i] = lighter[i]! < -BOTH_DARK_STOPS ? depthA + depthB - lighter[i]! : lighter[i]!
    } else {
      isOneSided[i] = 1
      depths[i] = lighter[i] = a >= 2 * MIN_PAIRS ? depthA : b >= 2 * MIN_PAIRS ? depthB : NaN
    }
  }
  return { depths, lighter, isOneSided }
}

const BOTH_DARK_STOPS = 0.04
