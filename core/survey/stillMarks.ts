/**
 * Still marks: logos, captions, burn-ins. While the picture moves behind them its mean grows smooth; what stays sharp in the mean, in
 * both directions and over some area, is laid over the picture. How much of it a mark hides is told by how much less the picture
 * varies under it. Source: common practice; gradients that agree over a collection of pictures as in T. Dekel et al., CVPR 2017.
 */
import type { Rect } from '../image/rect'
import { boxSums } from '../image/windows'
import { medianOf, nthSmallest } from '../image/median'
import type { ClipStatistics } from './clipStatistics'
import { clustersOf, extentOf } from '../image/clusters'

export interface StillMark {
  readonly kind: 'mark'
  /** Middle and size of the box around it, px. */
  readonly x: number
  readonly y: number
  readonly widthPx: number
  readonly heightPx: number
  /** Share of the picture that it hides, 0 to 1. */
  readonly opacity: number
  readonly sure: number
  readonly why: string
}

/** A step of the mean between neighbours: so much, and so many deviations of what grain and motion leave in a mean of so many frames. */
const MIN_STEP = 4 / 255
const DEVIATIONS = 6
/** Around a step, the picture must vary so many times as much as a picture at rest does by its grain. */
const VARIES_TIMES = 4
/** Where around a pixel the picture is asked whether it moves. */
const AROUND_PX = 24
/** Steps that are no further apart belong together. */
const JOIN_PX = 8
/** Less is a bad pixel or a speck. */
const MIN_SIDE_PX = 14
const MIN_STEPS = 60
/** Steps up and down against steps across: a mark has both. */
const MAX_LOPSIDED = 10
/** Of the box, so much must be steps. */
const MIN_FILLED = 0.02
/** No mark covers more of the picture. */
const LARGEST_SHARE = 0.15

/** Only of a picture that moves: at rest, everything stays sharp. @param grainFloor  Variance that grain alone has. */
export function findStillMarks(clip: ClipStatistics, grainFloor: number): StillMark[] {
  const { width, height, frames } = clip
  const { luma, varies } = lumaOf(clip)
  const [acrossSteps, downSteps] = [new Float32Array(width * height), new Float32Array(width * height)]
  const isStep = new Uint8Array(width * height)
  const frameShare = 1 / frames
  for (let row = AROUND_PX; row < height - AROUND_PX; row++) {
    for (let col = AROUND_PX; col < width - AROUND_PX; col++) {
      const at = row * width + col
      const [gx, gy] = [(luma[at + 1]! - luma[at - 1]!) / 2, (luma[at + width]! - luma[at - width]!) / 2]
      if (gx * gx + gy * gy < MIN_STEP * MIN_STEP) continue
      const around = medianOf(
        [at - AROUND_PX, at + AROUND_PX, at - AROUND_PX * width, at + AROUND_PX * width].map(
          (one) => varies[one]!,
        ),
      )
      // Neighbours in time resemble each other: a mean of frames is less sure than of as many single ones.
      if (
        around < VARIES_TIMES * grainFloor ||
        gx * gx + gy * gy < DEVIATIONS * DEVIATIONS * around * frameShare * SLOW
      )
        continue
      isStep[at] = 1
      acrossSteps[at] = gx * gx
      downSteps[at] = gy * gy
    }
  }
  dropLopsided(isStep, { acrossSteps, downSteps, varies, width, height })
  return clustersOf(isStep, width, height, JOIN_PX).flatMap(
    (cluster) => described(cluster, { acrossSteps, downSteps, varies, width, height }) ?? [],
  )
}

/** Squares to either side so far are asked for steps both ways, and keep theirs so far from such a place, px. */
const BOTH_WAYS_PX = 16
const NEAR_PX = 20
const MIN_NEAR = 8

/** Along a pan, what runs its way stays sharp, a shelf or a kerb: steps go that have none the other way near them. */
function dropLopsided(isStep: Uint8Array, { acrossSteps, downSteps, width, height }: Steps): void {
  const masked = (steps: Float32Array) => steps.map((value, at) => (isStep[at] === 1 ? value : 0))
  const across = boxSums(masked(acrossSteps), width, height, BOTH_WAYS_PX)
  const down = boxSums(masked(downSteps), width, height, BOTH_WAYS_PX)
  const isBoth = Float32Array.from(isStep, (one, at) => {
    const [a, d] = [across[at]!, down[at]!]
    return one === 1 && Math.max(a, d) <= MAX_LOPSIDED * Math.min(a, d) ? 1 : 0
  })
  const near = boxSums(isBoth, width, height, NEAR_PX)
  for (let at = 0; at < isStep.length; at++) if (near[at]! < MIN_NEAR) isStep[at] = 0
}

/** A moving picture's own steps at a place last some frames. */
const SLOW = 0.25

function lumaOf({ width, height, channels, mean, variance }: ClipStatistics) {
  const count = width * height
  const [luma, varies] = [new Float32Array(count), new Float32Array(count)]
  const [g, b] = channels < 3 ? [0, 0] : [1, 2]
  for (let i = 0, at = 0; i < count; i++, at += channels) {
    luma[i] = (mean[at]! + 2 * mean[at + g]! + mean[at + b]!) / 4
    varies[i] = (variance[at]! + 2 * variance[at + g]! + variance[at + b]!) / 4
  }
  return { luma, varies }
}

interface Steps {
  readonly acrossSteps: Float32Array
  readonly downSteps: Float32Array
  readonly varies: Float32Array
  readonly width: number
  readonly height: number
}

function described(
  cluster: readonly number[],
  { acrossSteps, downSteps, varies, width, height }: Steps,
): StillMark | null {
  if (cluster.length < MIN_STEPS) return null
  let [across, down] = [0, 0]
  for (const at of cluster) {
    across += acrossSteps[at]!
    down += downSteps[at]!
  }
  const box = extentOf(cluster, width)
  const { width: widthPx, height: heightPx } = box
  if (Math.min(widthPx, heightPx) < MIN_SIDE_PX || widthPx * heightPx > LARGEST_SHARE * width * height)
    return null
  if (
    Math.max(across, down) > MAX_LOPSIDED * Math.min(across, down) ||
    cluster.length < MIN_FILLED * widthPx * heightPx
  )
    return null
  const opacity = opacityOf(varies, width, height, box)
  const filled = Math.min(1, cluster.length / (6 * MIN_FILLED * widthPx * heightPx))
  return {
    kind: 'mark',
    x: box.col + widthPx / 2,
    y: box.row + heightPx / 2,
    widthPx,
    heightPx,
    opacity,
    sure: Math.round(100 * (0.4 + 0.3 * filled + 0.25 * Math.min(1, opacity / 0.3))) / 100,
    why: `Stays sharp while the picture moves behind it, and hides about ${Math.round(100 * opacity)} % of it.`,
  }
}

/** Of the pixels in the box, those that vary least are the mark's. */
const MARK_SHARE = 0.1

/** A mark that hides a share of the picture leaves the rest of its deviation. */
function opacityOf(
  varies: Float32Array,
  width: number,
  height: number,
  { col: left, row: top, width: widthPx, height: heightPx }: Rect,
): number {
  const [right, bottom] = [left + widthPx - 1, top + heightPx - 1]
  const [inside, around]: [number[], number[]] = [[], []]
  for (let row = Math.max(0, top - AROUND_PX); row <= Math.min(height - 1, bottom + AROUND_PX); row++) {
    for (let col = Math.max(0, left - AROUND_PX); col <= Math.min(width - 1, right + AROUND_PX); col++) {
      const isInside = row >= top && row <= bottom && col >= left && col <= right
      const isBeside = row < top - 4 || row > bottom + 4 || col < left - 4 || col > right + 4
      if (isInside) inside.push(varies[row * width + col]!)
      else if (isBeside) around.push(varies[row * width + col]!)
    }
  }
  const usual = medianOf(around)
  const min = nthSmallest(Float64Array.from(inside), inside.length, Math.floor(MARK_SHARE * inside.length))
  return usual > 0 ? Math.min(1, Math.max(0, 1 - Math.sqrt(min / usual))) : 0
}
