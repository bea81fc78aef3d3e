/**
 * The layers of a scene: parts of the background that each move as one plane does. A wall, the columns before it, the
 * floor.
 *
 * Layers are found one after the other: the motion that most of the remaining points share over some frames, followed
 * through the shot by the points it has in common from window to window. Then all of a layer's motions are adjusted
 * together, so that what is seen for long keeps them from drifting.
 * Sources: M. A. Fischler and R. C. Bolles, CACM 24(6), 1981; P. H. S. Torr, "Geometric motion segmentation and model
 * selection", Phil. Trans. R. Soc. A 356, 1998; B. Triggs et al., "Bundle adjustment: a modern synthesis", 1999.
 */
import {
  estimateMotion,
  estimateMotionRobust,
  MIN_PAIRS,
  motionModels,
  type MotionModel,
} from '../geometry/estimate'
import { apply, IDENTITY, invert, compose, type Matrix3 } from '../geometry/transform'
import { medianOf } from '../image/median'
import { framesOf, lastFrameOf, type Trajectory } from './trajectories'

export interface SceneLayer {
  /** For each frame of the range, where places of the layer's reference frame lie on it. */
  readonly frameFromReference: readonly Matrix3[]
  /** For each frame, 0 to 1: how well its points agree. */
  readonly sure: readonly number[]
  /** Trajectories that belong to it. */
  readonly members: readonly Trajectory[]
}

const WINDOW_FRAMES = 8
const TOLERANCE_PX = 0.6 // over a window; what moves otherwise is further off
const MAX_LAYERS = 4
const MIN_SHARE = 0.06
const MIN_MEMBERS = 8

export function findLayers(
  trajectories: readonly Trajectory[],
  firstFrame: number,
  lastFrame: number,
): SceneLayer[] {
  const window = Math.min(WINDOW_FRAMES, lastFrame - firstFrame)
  if (window < 1) return [{ frameFromReference: [IDENTITY], sure: [0], members: [] }]
  let rest = trajectories.filter((one) => framesOf(one) > Math.min(4, window))
  const total = rest.length
  const layers: SceneLayer[] = []
  while (layers.length < MAX_LAYERS) {
    const members = largestGroup(rest, firstFrame, lastFrame, window)
    if (members.length < Math.max(MIN_MEMBERS, MIN_SHARE * total)) break
    const layer = adjust(members, firstFrame, lastFrame)
    const isMember = new Set(members)
    rest = rest.filter((one) => !isMember.has(one) && !belongsTo(one, layer, firstFrame))
    layers.push(layer)
  }
  if (layers.length === 0) layers.push(adjust(rest, firstFrame, lastFrame))
  const lengthOf = (layer: SceneLayer) => layer.members.reduce((sum, one) => sum + framesOf(one), 0)
  return layers.sort((a, b) => lengthOf(b) - lengthOf(a)).map(settled)
}

const placeAt = (one: Trajectory, frame: number) => ({
  x: one.places[2 * (frame - one.firstFrame)]!,
  y: one.places[2 * (frame - one.firstFrame) + 1]!,
})
const covers = (one: Trajectory, from: number, to: number): boolean =>
  one.firstFrame <= from && lastFrameOf(one) >= to

function pairsOf(list: readonly Trajectory[], from: number, to: number) {
  const [a, b]: [number[], number[]] = [[], []]
  for (const one of list) {
    const [p, q] = [placeAt(one, from), placeAt(one, to)]
    a.push(p.x, p.y)
    b.push(q.x, q.y)
  }
  return { a, b }
}

/** The trajectories that share one motion through the whole shot, beginning where most are seen. */
function largestGroup(
  rest: readonly Trajectory[],
  firstFrame: number,
  lastFrame: number,
  window: number,
): Trajectory[] {
  let [bestStart, max] = [firstFrame, -1]
  for (let from = firstFrame; from + window <= lastFrame; from += Math.max(1, window >> 1)) {
    const count = rest.filter((one) => covers(one, from, from + window)).length
    if (count > max) [bestStart, max] = [from, count]
  }
  const agrees = new Map<Trajectory, number>()
  const asked = new Map<Trajectory, number>()
  const note = (one: Trajectory, isIn: boolean) => {
    asked.set(one, (asked.get(one) ?? 0) + 1)
    if (isIn) agrees.set(one, (agrees.get(one) ?? 0) + 1)
  }
  const isMember = (one: Trajectory) => 2 * (agrees.get(one) ?? 0) > (asked.get(one) ?? 0)
  const visit = (from: number, isFirst: boolean): boolean => {
    const here = rest.filter((one) => covers(one, from, from + window))
    const known = here.map((one) => (isMember(one) ? 1 : 0))
    const { a, b } = pairsOf(here, from, from + window)
    const prior = isFirst ? undefined : known
    if (!isFirst && known.reduce<number>((sum, one) => sum + one, 0) < 4) return false
    const rough = estimateMotionRobust('affine', a, b, TOLERANCE_PX * 2, prior, isFirst ? 0.02 : 0.3)
    if (!rough) return false
    const fine =
      estimateMotionRobust(
        'perspective',
        a,
        b,
        TOLERANCE_PX,
        [...rough.weights].map((one) => (one > 0 ? 1 : 0)),
        0.3,
      ) ?? rough
    here.forEach((one, i) => {
      const at = apply(fine.matrix, a[2 * i]!, a[2 * i + 1]!)
      const [dx, dy] = [at.x - b[2 * i]!, at.y - b[2 * i + 1]!]
      note(one, dx * dx + dy * dy < TOLERANCE_PX * TOLERANCE_PX)
    })
    return true
  }
  if (!visit(bestStart, true)) return []
  const step = Math.max(1, window >> 1)
  for (let from = bestStart + step; from + window <= lastFrame; from += step) if (!visit(from, false)) break
  if ((lastFrame - window - bestStart) % step !== 0) visit(lastFrame - window, false)
  for (let from = bestStart - step; from >= firstFrame; from -= step) if (!visit(from, false)) break
  return rest.filter((one) => asked.has(one) && isMember(one))
}

/** Whether a trajectory moves as a layer does, as long as it is seen. */
function belongsTo(one: Trajectory, { frameFromReference }: SceneLayer, firstFrame: number): boolean {
  const [from, to] = [one.firstFrame, lastFrameOf(one)]
  const back = invert(frameFromReference[from - firstFrame]!)
  if (!back) return false
  const p = placeAt(one, from)
  const at = apply(compose(frameFromReference[to - firstFrame]!, back), p.x, p.y)
  const q = placeAt(one, to)
  const allowed = TOLERANCE_PX * Math.max(1, (to - from) / WINDOW_FRAMES)
  return (at.x - q.x) * (at.x - q.x) + (at.y - q.y) * (at.y - q.y) < allowed * allowed
}

const ROUNDS = 6
const ENOUGH_FOR: Readonly<Record<MotionModel, number>> = {
  translation: 1,
  similarity: 5,
  affine: 9,
  perspective: 16,
}
/** A richer model must leave so much less than a simpler one. */
const CLEARLY = 0.85

/** Motions of all frames from all members: first from frame to frame, then each frame against where its points belong. */
function adjust(members: readonly Trajectory[], firstFrame: number, lastFrame: number): SceneLayer {
  const count = lastFrame - firstFrame + 1
  const model = modelFor(members, firstFrame, lastFrame)
  const motions: Matrix3[] = [IDENTITY]
  for (let frame = firstFrame + 1; frame <= lastFrame; frame++) {
    const shared = members.filter((one) => covers(one, frame - 1, frame))
    const { a, b } = pairsOf(shared, frame - 1, frame)
    const step = fitted(model, a, b)
    motions.push(compose(step ?? IDENTITY, motions[motions.length - 1]!))
  }
  for (let round = 0; round < ROUNDS; round++) {
    const references = members.map((one) => referenceOf(one, motions, firstFrame))
    for (let i = 1; i < count; i++) {
      const [a, b]: [number[], number[]] = [[], []]
      members.forEach((one, k) => {
        if (!covers(one, firstFrame + i, firstFrame + i)) return
        const place = placeAt(one, firstFrame + i)
        a.push(references[k]!.x, references[k]!.y)
        b.push(place.x, place.y)
      })
      const next = fitted(model, a, b)
      if (next) motions[i] = next
    }
  }
  return { frameFromReference: motions, sure: surenessOf(members, motions, firstFrame), members }
}

function referenceOf(one: Trajectory, motions: readonly Matrix3[], firstFrame: number) {
  let [x, y, n] = [0, 0, 0]
  for (let frame = one.firstFrame; frame <= lastFrameOf(one); frame++) {
    const back = invert(motions[frame - firstFrame]!)
    if (!back) continue
    const place = placeAt(one, frame)
    const at = apply(back, place.x, place.y)
    x += at.x
    y += at.y
    n++
  }
  return { x: x / Math.max(1, n), y: y / Math.max(1, n) }
}

/** The simplest model that explains what the members do over a window in the middle. */
function modelFor(members: readonly Trajectory[], firstFrame: number, lastFrame: number): MotionModel {
  const away = Math.min(WINDOW_FRAMES, lastFrame - firstFrame)
  const residuals = new Map<MotionModel, number>()
  for (const model of motionModels) {
    let [sum, n] = [0, 0]
    for (let from = firstFrame; from + away <= lastFrame; from += away) {
      const shared = members.filter((one) => covers(one, from, from + away))
      if (shared.length < ENOUGH_FOR[model]) continue
      const { a, b } = pairsOf(shared, from, from + away)
      const matrix = fitted(model, a, b)
      if (!matrix) continue
      // Unknowns take some of the misfit away by themselves.
      const freedom = Math.max(1, 2 * shared.length - 2 * MIN_PAIRS[model])
      sum += squaresOf(matrix, a, b) / freedom
      n++
    }
    if (n > 0) residuals.set(model, Math.sqrt(sum / n))
  }
  let chosen: MotionModel = 'translation'
  for (const model of motionModels) {
    const residual = residuals.get(model)
    if (residual !== undefined && residual < CLEARLY * (residuals.get(chosen) ?? Infinity)) chosen = model
  }
  return chosen
}

const squaresOf = (matrix: Matrix3, a: readonly number[], b: readonly number[]): number => {
  let sum = 0
  for (let i = 0; i < a.length; i += 2) {
    const at = apply(matrix, a[i]!, a[i + 1]!)
    sum += (at.x - b[i]!) * (at.x - b[i]!) + (at.y - b[i + 1]!) * (at.y - b[i + 1]!)
  }
  return sum
}

const squared = (value: number): number => value * value

/** Twice: the second time what is far off has no say. */
function fitted(model: MotionModel, a: readonly number[], b: readonly number[]): Matrix3 | null {
  const usable = motionModels.findLast(
    (one) => motionModels.indexOf(one) <= motionModels.indexOf(model) && a.length / 2 >= ENOUGH_FOR[one],
  )
  if (!usable) return null
  const first = estimateMotion(usable, a, b)
  if (!first) return null
  const offs = Array.from({ length: a.length / 2 }, (_, i) => {
    const at = apply(first, a[2 * i]!, a[2 * i + 1]!)
    return Math.sqrt(squared(at.x - b[2 * i]!) + squared(at.y - b[2 * i + 1]!))
  })
  const usual = Math.max(0.05, medianOf(offs))
  return (
    estimateMotion(
      usable,
      a,
      b,
      offs.map((off) => (off < 3 * usual ? 1 : 0)),
    ) ?? first
  )
}

function surenessOf(
  members: readonly Trajectory[],
  motions: readonly Matrix3[],
  firstFrame: number,
): number[] {
  const references = members.map((one) => referenceOf(one, motions, firstFrame))
  return motions.map((motion, i) => {
    let [agreeing, seen] = [0, 0]
    members.forEach((one, k) => {
      if (!covers(one, firstFrame + i, firstFrame + i)) return
      const [at, place] = [apply(motion, references[k]!.x, references[k]!.y), placeAt(one, firstFrame + i)]
      seen++
      if (squared(at.x - place.x) + squared(at.y - place.y) < 0.25) agreeing++
    })
    return seen === 0 ? 0 : (agreeing / seen) * Math.min(1, seen / MIN_MEMBERS)
  })
}

const STILL_PX = 0.06

/** A layer that never moves by more than its measuring error does not move at all. */
function settled(layer: SceneLayer): SceneLayer {
  const isStill = layer.frameFromReference.every(
    (motion) =>
      layer.members.length === 0 ||
      [0.2, 0.8].every((share) => {
        const spread = layer.members[Math.floor(share * (layer.members.length - 1))]!
        const at = apply(motion, spread.places[0]!, spread.places[1]!)
        return Math.abs(at.x - spread.places[0]!) < STILL_PX && Math.abs(at.y - spread.places[1]!) < STILL_PX
      }),
  )
  return isStill ? { ...layer, frameFromReference: layer.frameFromReference.map(() => IDENTITY) } : layer
}
