/**
 * Fitting a motion model to pairs of places, by weighted least squares and robustly.
 *
 * Places are x, y pairs in one array: `from[2 i]`, `from[2 i + 1]` goes to `to[2 i]`, `to[2 i + 1]`.
 */
import { addEquation, solveSymmetric } from './linear'
import { apply, compose, normalised, translationBy, type Matrix3 } from './transform'

export const motionModels = ['translation', 'similarity', 'affine', 'perspective'] as const
export type MotionModel = (typeof motionModels)[number]

/** Pairs that fix a model. */
export const MIN_PAIRS: Readonly<Record<MotionModel, number>> = {
  translation: 1,
  similarity: 2,
  affine: 3,
  perspective: 4,
}

/**
 * The model that takes `from` nearest to `to` in the sense of least squares (perspective: of its linear form).
 *
 * @param weights  One for each pair, 0 leaves it out; all 1 where absent.
 * @returns null when the pairs do not fix the model (too few, or in one line).
 * Source: similarity after S. Umeyama, "Least-squares estimation of transformation parameters between
 * two point patterns", IEEE PAMI 13(4), 1991, without mirroring; perspective is the direct linear
 * method with normalised coordinates, R. Hartley, "In defence of the eight-point algorithm", 1997.
 */
export function estimateMotion(
  model: MotionModel,
  from: ArrayLike<number>,
  to: ArrayLike<number>,
  weights?: ArrayLike<number>,
): Matrix3 | null {
  const count = from.length / 2
  const w = (i: number) => (weights ? weights[i]! : 1)
  let used = 0
  for (let i = 0; i < count; i++) if (w(i) > 0) used++
  if (used < MIN_PAIRS[model]) return null
  const a = frameOf(from, w)
  const b = frameOf(to, w)
  if (model === 'translation') return translationBy(b.x - a.x, b.y - a.y)
  if (!(a.spread > 0 && b.spread > 0)) return null
  const inner = solveCentred(model, from, to, w, a, b)
  if (!inner) return null
  const scaleIn: Matrix3 = [1 / a.spread, 0, 0, 0, 1 / a.spread, 0, 0, 0, 1]
  const scaleOut: Matrix3 = [b.spread, 0, 0, 0, b.spread, 0, 0, 0, 1]
  const whole = compose(
    translationBy(b.x, b.y),
    compose(scaleOut, compose(inner, compose(scaleIn, translationBy(-a.x, -a.y)))),
  )
  return Math.abs(whole[8]) > 1e-12 ? normalised(whole) : null
}

interface PointFrame {
  readonly x: number
  readonly y: number
  readonly spread: number
}

/** Weighted middle and root mean square distance from it. */
function frameOf(points: ArrayLike<number>, w: (i: number) => number): PointFrame {
  let [x, y, sum, spread] = [0, 0, 0, 0]
  for (let i = 0; i < points.length / 2; i++) {
    x += w(i) * points[2 * i]!
    y += w(i) * points[2 * i + 1]!
    sum += w(i)
  }
  x /= sum
  y /= sum
  for (let i = 0; i < points.length / 2; i++) {
    const [dx, dy] = [points[2 * i]! - x, points[2 * i + 1]! - y]
    spread += (w(i) * (dx * dx + dy * dy)) / sum
  }
  return { x, y, spread: Math.sqrt(spread) }
}

function solveCentred(
  model: Exclude<MotionModel, 'translation'>,
  from: ArrayLike<number>,
  to: ArrayLike<number>,
  w: (i: number) => number,
  a: PointFrame,
  b: PointFrame,
): Matrix3 | null {
  const unknowns = model === 'similarity' ? 2 : model === 'affine' ? 6 : 8
  const upper = new Float64Array((unknowns * (unknowns + 1)) / 2)
  const right = new Float64Array(unknowns)
  for (let i = 0; i < from.length / 2; i++) {
    const weight = w(i)
    if (weight <= 0) continue
    const [x, y] = [(from[2 * i]! - a.x) / a.spread, (from[2 * i + 1]! - a.y) / a.spread]
    const [u, v] = [(to[2 * i]! - b.x) / b.spread, (to[2 * i + 1]! - b.y) / b.spread]
    if (model === 'similarity') {
      addEquation(upper, right, [x, -y], u, weight)
      addEquation(upper, right, [y, x], v, weight)
    } else if (model === 'affine') {
      addEquation(upper, right, [x, y, 1, 0, 0, 0], u, weight)
      addEquation(upper, right, [0, 0, 0, x, y, 1], v, weight)
    } else {
      addEquation(upper, right, [x, y, 1, 0, 0, 0, -u * x, -u * y], u, weight)
      addEquation(upper, right, [0, 0, 0, x, y, 1, -v * x, -v * y], v, weight)
    }
  }
  const s = solveSymmetric(upper, right)
  if (!s) return null
  if (model === 'similarity') return [s[0]!, -s[1]!, 0, s[1]!, s[0]!, 0, 0, 0, 1]
  if (model === 'affine') return [s[0]!, s[1]!, s[2]!, s[3]!, s[4]!, s[5]!, 0, 0, 1]
  return [s[0]!, s[1]!, s[2]!, s[3]!, s[4]!, s[5]!, s[6]!, s[7]!, 1]
}

export interface RobustFit {
  readonly matrix: Matrix3
  /** 0 to 1 for each pair: how far it agrees with the model. */
  readonly weights: Float64Array
  readonly inliers: number
  /** Root mean square distance of the inliers, px. */
  readonly residualPx: number
}

const TRIES = 200

/**
 * A model that most pairs agree with; pairs further off than `tolerancePx` have no say.
 *
 * Small samples are drawn by a fixed rule, the one with the most agreement is refined with weights that
 * fall as Tukey's biweight. The same pairs always give the same answer.
 * @param leastShare  Of the given weight that must agree; where several things move, less than half of it may.
 * @returns null when no model finds as much agreement.
 * Source: Fischler and Bolles, "Random sample consensus", CACM 24(6), 1981; Beaton and Tukey, 1974.
 */
export function estimateMotionRobust(
  model: MotionModel,
  from: ArrayLike<number>,
  to: ArrayLike<number>,
  tolerancePx: number,
  prior?: ArrayLike<number>,
  minShare = 0.5,
): RobustFit | null {
  const count = from.length / 2
  const base = Float64Array.from({ length: count }, (_, i) => (prior ? prior[i]! : 1))
  const usable = [...base.keys()].filter((i) => base[i]! > 0)
  const need = MIN_PAIRS[model]
  if (usable.length < need) return null
  const squareDistance = (m: Matrix3, i: number) => {
    const at = apply(m, from[2 * i]!, from[2 * i + 1]!)
    const [dx, dy] = [at.x - to[2 * i]!, at.y - to[2 * i + 1]!]
    return dx * dx + dy * dy
  }
  const agreement = (m: Matrix3, i: number) =>
    Math.max(0, 1 - squareDistance(m, i) / (tolerancePx * tolerancePx))
  let best: Matrix3 | null = null
  let bestScore = -1
  let state = 12345
  const consider = (weights: Float64Array) => {
    const m = estimateMotion(model, from, to, weights)
    if (!m) return
    let score = 0
    for (const i of usable) score += base[i]! * agreement(m, i)
    if (score > bestScore) [best, bestScore] = [m, score]
  }
  consider(base)
  for (let attempt = 0; attempt < (usable.length > need ? TRIES : 0); attempt++) {
    const picked = new Float64Array(count)
    for (let chosen = 0; chosen < need;) {
      state = (Math.imul(state, 1664525) + 1013904223) | 0
      const i = usable[(state >>> 8) % usable.length]!
      if (picked[i] === 0) chosen++
      picked[i] = 1
    }
    consider(picked)
  }
  if (!best) return null
  let matrix: Matrix3 = best
  const weights = new Float64Array(count)
  for (let round = 0; round < 6; round++) {
    for (let i = 0; i < count; i++) {
      const rest = base[i]! > 0 ? agreement(matrix, i) : 0
      weights[i] = rest * rest
    }
    const next = estimateMotion(
      model,
      from,
      to,
      weights.map((weight, i) => weight * base[i]!),
    )
    if (!next) return null
    matrix = next
  }
  let [inliers, sum, agreed, given] = [0, 0, 0, 0]
  for (const i of usable) {
    given += base[i]!
    if (weights[i]! === 0) continue
    inliers++
    agreed += base[i]!
    sum += squareDistance(matrix, i)
  }
  if (agreed < given * minShare) return null
  return { matrix, weights, inliers, residualPx: Math.sqrt(sum / inliers) }
}
