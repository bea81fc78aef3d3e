/**
 * How another frame lies over this one, to hundredths of a pixel: what the scene motion says, corrected on the plate
 * around an area.
 *
 * Gauss-Newton on the differences between this frame and the other read through the motion, with an affine
 * correction, a gain and an offset; differences that are large for their kind say less.
 * Source: B. D. Lucas and T. Kanade, "An iterative image registration technique", IJCAI 1981; robust weights after
 * A. E. Beaton and J. W. Tukey, 1974.
 */
import { addEquation, solveSymmetric } from '../geometry/linear'
import { apply, compose, translationBy, type Matrix3 } from '../geometry/transform'
import { medianOf } from '../image/median'
import type { OpenFrame } from './reading'

/** Places of this frame that others are registered by. */
export interface Anchors {
  /** x, y pairs in px of the full picture. */
  readonly places: Float32Array
  /** Brightness and its slopes, per px. */
  readonly values: Float32Array
  readonly slopesX: Float32Array
  readonly slopesY: Float32Array
}

export interface Refined {
  readonly thereFromHere: Matrix3
  /** Typical (median) difference of brightness after gain and offset, in the plate's scale. */
  readonly residual: number
  /** Px that the correction moves the anchors at most. */
  readonly movedPx: number
  /** Share of the anchors that could be read there. */
  readonly inside: number
}

const ROUNDS = 8
const SETTLED_PX = 0.003
const AT_REST_PX = 0.06
/** Further than this the scene motion is believed rather than the correction. */
const MAX_MOVED_PX = 4
const MIN = 60
const MIN_FOR_AFFINE = 400
/** How far the scene motion may be off, as a shift and at the rim of the anchors as a bend: where they hardly fix it, it is believed. */
const SHIFT_OFF_PX = 1
const BEND_OFF_PX = 0.3

/** Mean of all channels. */
export function brightnessOf(values: Float32Array, channels: number): Float32Array {
  const out = new Float32Array(values.length / channels)
  const lit = channels >= 3 ? 3 : 1
  for (let i = 0; i < out.length; i++) {
    let sum = 0
    for (let c = 0; c < lit; c++) sum += values[i * channels + c]!
    out[i] = sum / lit
  }
  return out
}

/**
 * @param which  Indices of the anchors to go by.
 * @returns null when too few of them can be read there, or they do not fix a shift.
 */
export function refineMotion(
  anchors: Anchors,
  which: Int32Array,
  frame: OpenFrame,
  start: Matrix3,
  channels: number,
): Refined | null {
  if (which.length < MIN) return null
  const places = pick2(anchors.places, which)
  const [x0, y0, unit] = frameOf(places)
  const unknowns = which.length >= MIN_FOR_AFFINE ? 6 : 2
  let correction: Matrix3 = [1, 0, 0, 0, 1, 0, 0, 0, 1]
  let [gain, offset, residual, inside] = [1, 0, Infinity, 0]
  const moved = new Float64Array(unknowns)
  for (let round = 0; round < ROUNDS; round++) {
    const motion = compose(start, correction)
    const { values, kept } = frame.read(motion, places)
    const seen = brightnessOf(values, channels)
    const step = solveStep(anchors, which, places, seen, kept, {
      gain,
      offset,
      x0,
      y0,
      unit,
      unknowns,
      moved,
    })
    if (!step) return null
    ;({ residual, inside } = step)
    gain = step.gain
    offset = step.offset
    const { warp } = step
    step.moves.forEach((move, i) => (moved[i]! += move))
    correction = compose(correction, warp)
    const movedPx = maxMoved(warp, places)
    if (maxMoved(correction, places) > MAX_MOVED_PX) return null
    if (movedPx < SETTLED_PX) break
  }
  const movedPx = maxMoved(correction, places)
  // Frames that lie pixel on pixel are left so: reading between pixels would only soften them.
  if (movedPx < AT_REST_PX && isWhole(start)) return { thereFromHere: start, residual, movedPx: 0, inside }
  return { thereFromHere: compose(start, correction), residual, movedPx, inside }
}

const isWhole = (m: Matrix3): boolean =>
  m[0] === 1 &&
  m[1] === 0 &&
  m[3] === 0 &&
  m[4] === 1 &&
  m[6] === 0 &&
  m[7] === 0 &&
  Number.isInteger(m[2]) &&
  Number.isInteger(m[5])

interface Now {
  readonly gain: number
  readonly offset: number
  readonly x0: number
  readonly y0: number
  readonly unit: number
  readonly unknowns: number
  /** What has been corrected so far, in px for each unknown. */
  readonly moved: Float64Array
}

function solveStep(
  anchors: Anchors,
  which: Int32Array,
  places: Float32Array,
  seen: Float32Array,
  kept: Float32Array,
  now: Now,
) {
  const count = which.length
  const { gain, offset, x0, y0, unit, unknowns, moved } = now
  const sizes: number[] = []
  for (let k = 0; k < count; k++)
    if (kept[k]! > 0) sizes.push(Math.abs(gain * seen[k]! + offset - anchors.values[which[k]!]!))
  if (sizes.length < MIN || 2 * sizes.length < count * 0.5) return null
  const residual = medianOf(sizes)
  const reach = Math.max(4.7 * 1.5 * residual, 1e-4)
  const n = unknowns + 2
  const upper = new Float64Array((n * (n + 1)) / 2)
  const right = new Float64Array(n)
  const row = new Float64Array(n)
  for (let k = 0; k < count; k++) {
    if (kept[k]! <= 0) continue
    const anchor = which[k]!
    const difference = anchors.values[anchor]! - gain * seen[k]! - offset
    const off = difference / reach
    if (Math.abs(off) >= 1) continue
    const weight = (1 - off * off) * (1 - off * off)
    const [gx, gy] = [anchors.slopesX[anchor]!, anchors.slopesY[anchor]!]
    row[0] = gx
    row[1] = gy
    if (unknowns === 6) {
      const [x, y] = [(places[2 * k]! - x0) / unit, (places[2 * k + 1]! - y0) / unit]
      row[2] = gx * x
      row[3] = gx * y
      row[4] = gy * x
      row[5] = gy * y
    }
    row[unknowns] = seen[k]!
    row[unknowns + 1] = 1
    addEquation(upper, right, row, difference, weight)
  }
  // What the anchors hardly fix stays as the scene has it: a prior of that width, against differences of this deviation.
  const variance = 1.4826 * 1.4826 * residual * residual
  for (let i = 0, at = 0; i < unknowns; at += n - i, i++) {
    const width = i < 2 ? SHIFT_OFF_PX : BEND_OFF_PX
    const pull = variance / (width * width)
    upper[at]! += pull
    right[i]! -= pull * moved[i]!
  }
  const s = solveSymmetric(upper, right)
  if (!s) return null
  const [dx, dy] = [s[0]!, s[1]!]
  const a = unknowns === 6 ? [s[2]! / unit, s[3]! / unit, s[4]! / unit, s[5]! / unit] : [0, 0, 0, 0]
  const warp = compose(
    translationBy(x0, y0),
    compose([1 + a[0]!, a[1]!, dx, a[2]!, 1 + a[3]!, dy, 0, 0, 1], translationBy(-x0, -y0)),
  )
  return {
    warp,
    moves: s.subarray(0, unknowns),
    gain: gain + s[unknowns]!,
    offset: offset + s[unknowns + 1]!,
    residual,
    inside: sizes.length / count,
  }
}

function maxMoved(warp: Matrix3, places: Float32Array): number {
  let max = 0
  const stride = Math.max(1, Math.floor(places.length / 2 / 64))
  for (let k = 0; k < places.length / 2; k += stride) {
    const at = apply(warp, places[2 * k]!, places[2 * k + 1]!)
    const [dx, dy] = [at.x - places[2 * k]!, at.y - places[2 * k + 1]!]
    max = Math.max(max, Math.sqrt(dx * dx + dy * dy))
  }
  return max
}

function frameOf(places: Float32Array): [number, number, number] {
  const count = places.length / 2
  let [x, y, spread] = [0, 0, 0]
  for (let k = 0; k < count; k++) {
    x += places[2 * k]! / count
    y += places[2 * k + 1]! / count
  }
  for (let k = 0; k < count; k++)
    spread +=
      ((places[2 * k]! - x) * (places[2 * k]! - x) + (places[2 * k + 1]! - y) * (places[2 * k + 1]! - y)) /
      count
  return [x, y, Math.max(1, Math.sqrt(spread))]
}

/** The places of some entries. */
export function pick2(places: Float32Array, which: Int32Array): Float32Array {
  const out = new Float32Array(2 * which.length)
  which.forEach((entry, k) => {
    out[2 * k] = places[2 * entry]!
    out[2 * k + 1] = places[2 * entry + 1]!
  })
  return out
}
