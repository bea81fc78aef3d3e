/**
 * How another frame lies over this one, to hundredths of a pixel: what the scene motion says, corrected on the plate
 * around an area.
 *
 * Gauss-Newton on the differences between this frame and the other read through the motion, with an affine
 * correction, a gain and an offset; differences that are large for their kind say less, and what the anchors hardly
 * fix stays as the scene has it.
 * Source: B. D. Lucas and T. Kanade, "An iterative image registration technique", IJCAI 1981; robust weights after
 * A. E. Beaton and J. W. Tukey, 1974.
 */
import { solveSymmetric } from '../geometry/linear'
import { apply, compose, translationBy, type Matrix3 } from '../geometry/transform'
import { kernels } from '../kernels/module'
import type { Anchors } from './anchors'
import type { KernelFrame, ReadingPlanes } from './places'

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
const MIN_ANCHORS = 60
const MIN_FOR_AFFINE = 400
const MIN_INSIDE = 0.25
/** Deviations of the median difference beyond which an anchor has no say: 4.7 times 1.5 medians. */
const REACH_MEDIANS = 4.7 * 1.5
const MIN_REACH = 1e-4
/** How far the scene motion may be off, as a shift and at the rim of the anchors as a bend: where they hardly fix it, it is believed. */
const SHIFT_OFF_PX = 1
const BEND_OFF_PX = 0.3
const DEVIATION_OF_MEDIAN = 1.4826

/**
 * @param to  Where the anchors are read to; it holds what the last motion shows when this returns.
 * @returns null when too few of them can be read there, or they do not fix a shift.
 */
export function refineMotion(
  anchors: Anchors,
  frame: KernelFrame,
  start: Matrix3,
  to: ReadingPlanes,
): Refined | null {
  if (anchors.count < MIN_ANCHORS) return null
  const unknowns = anchors.count >= MIN_FOR_AFFINE ? 6 : 2
  let correction: Matrix3 = [1, 0, 0, 0, 1, 0, 0, 0, 1]
  let now: Step = { warp: correction, gain: 1, offset: 0, residual: Infinity, inside: 0, moves: NOT_MOVED }
  const moved = new Float64Array(unknowns)
  for (let round = 0; round < ROUNDS; round++) {
    frame.readInto(to, anchors.places, compose(start, correction), null)
    const step = solveStep(anchors, to, now, unknowns, moved)
    if (!step) return null
    now = step
    step.moves.forEach((move, i) => (moved[i]! += move))
    correction = compose(correction, step.warp)
    if (maxMoved(correction, anchors) > MAX_MOVED_PX) return null
    if (maxMoved(step.warp, anchors) < SETTLED_PX) break
  }
  const { residual, inside } = now
  const movedPx = maxMoved(correction, anchors)
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

interface Step {
  readonly warp: Matrix3
  readonly gain: number
  readonly offset: number
  readonly residual: number
  readonly inside: number
  readonly moves: Float64Array
}

const NOT_MOVED = new Float64Array(0)

/** @param moved  What has been corrected so far, in px for each unknown. */
function solveStep(
  { places, count, channels, brightness, slopesX, slopesY, unitXs, unitYs, frame, work }: Anchors,
  { values, kept, stride }: ReadingPlanes,
  { gain, offset }: Step,
  unknowns: number,
  moved: Float64Array,
): Step | null {
  const n = unknowns + 2
  const pairs = (n * (n + 1)) / 2
  const [outAt, scratch] = [work, work + 8 * (1 + pairs + n)]
  // prettier-ignore
  const seen = kernels().refineSums(
    values, stride, kept, places.count, channels, brightness, slopesX, slopesY, unitXs, unitYs,
    gain, offset, unknowns, REACH_MEDIANS, MIN_REACH, scratch, outAt,
  )
  if (seen < MIN_ANCHORS || seen < MIN_INSIDE * count) return null
  const out = new Float64Array(kernels().memory.buffer, outAt, 1 + pairs + n)
  const residual = out[0]!
  const [upper, right] = [out.subarray(1, 1 + pairs), out.subarray(1 + pairs)]
  // What the anchors hardly fix stays as the scene has it: a prior of that width, against differences of this deviation.
  const variance = DEVIATION_OF_MEDIAN * DEVIATION_OF_MEDIAN * residual * residual
  for (let i = 0, at = 0; i < unknowns; at += n - i, i++) {
    const width = i < 2 ? SHIFT_OFF_PX : BEND_OFF_PX
    const pull = variance / (width * width)
    upper[at]! += pull
    right[i]! -= pull * moved[i]!
  }
  const s = solveSymmetric(upper, right)
  if (!s) return null
  const bend = (i: number) => (unknowns === 6 ? s[i]! / frame.unit : 0)
  const turned = compose(
    [1 + bend(2), bend(3), s[0]!, bend(4), 1 + bend(5), s[1]!, 0, 0, 1],
    translationBy(-frame.x, -frame.y),
  )
  return {
    warp: compose(translationBy(frame.x, frame.y), turned),
    moves: s.slice(0, unknowns),
    gain: gain + s[unknowns]!,
    offset: offset + s[unknowns + 1]!,
    residual,
    inside: seen / count,
  }
}

const LOOKED_AT = 64

/** The largest of the moves of some anchors. */
function maxMoved(warp: Matrix3, { places, count }: Anchors): number {
  const { buffer } = kernels().memory
  const [xs, ys] = [new Float32Array(buffer, places.xs, count), new Float32Array(buffer, places.ys, count)]
  let max = 0
  const stride = Math.max(1, Math.floor(count / LOOKED_AT))
  for (let k = 0; k < count; k += stride) {
    const at = apply(warp, xs[k]!, ys[k]!)
    const [dx, dy] = [at.x - xs[k]!, at.y - ys[k]!]
    max = Math.max(max, dx * dx + dy * dy)
  }
  return Math.sqrt(max)
}
