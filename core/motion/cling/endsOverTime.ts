/**
 * Where a line's end lies on all frames at once: on each frame a step from line to no line may be in several places, and the way through
 * them is taken that shows the clearest steps and turns least. A step that is nearer for one frame, and leads away, is not followed.
 *
 * Dynamic programming over pairs of places on neighbouring frames, which have a velocity.
 * Source: A. Amini, T. Weymouth, R. Jain, "Using dynamic programming for solving variational problems in vision", IEEE PAMI 12(9), 1990.
 */
import type { Place } from './clingCurves'

/** Where an end may be on a frame, and what speaks against it, in nats. */
export interface EndCandidate {
  readonly place: Place
  readonly cost: number
}

/** Deviation of the change of velocity from frame to frame, and of the velocity, px; none costs more than so much. */
const [TURN_DEVIATION_PX, STEP_DEVIATION_PX, MOST_TURN_COST] = [4, 40, 30] as const

/** Of each frame only so many candidates are looked at, none that so many nats speak against. */
const [MOST_CANDIDATES, FAR_NATS] = [40, 30] as const

/** The likelier candidates of a frame, as numbers. */
interface Likely {
  readonly indices: readonly number[]
  readonly xs: Float64Array
  readonly ys: Float64Array
  readonly costs: Float64Array
}

function likelyOf(candidates: readonly EndCandidate[]): Likely {
  const least = candidates.reduce((least, { cost }) => Math.min(least, cost), Infinity)
  const indices = candidates
    .map((_, i) => i)
    .filter((i) => candidates[i]!.cost <= least + FAR_NATS)
    .sort((a, b) => candidates[a]!.cost - candidates[b]!.cost)
    .slice(0, MOST_CANDIDATES)
  return {
    indices,
    xs: Float64Array.from(indices, (i) => candidates[i]!.place.x),
    ys: Float64Array.from(indices, (i) => candidates[i]!.place.y),
    costs: Float64Array.from(indices, (i) => candidates[i]!.cost),
  }
}

/** @returns The index of the candidate taken on each frame. */
export function endsOverTime(frames: readonly (readonly EndCandidate[])[]): number[] {
  const likely = frames.map(likelyOf)
  const [first, second] = likely
  if (!first) return []
  if (!second) return [first.indices[0]!]
  // Costs of the best way that ends in j, with i the frame before, at j * (candidates of that frame) + i.
  let costs = new Float64Array(second.costs.length * first.costs.length)
  let at = 0
  for (let j = 0; j < second.costs.length; j++)
    for (let i = 0; i < first.costs.length; i++) {
      const [dx, dy] = [second.xs[j]! - first.xs[i]!, second.ys[j]! - first.ys[i]!]
      costs[at++] = first.costs[i]! + second.costs[j]! + turnCost(dx, dy, STEP_DEVIATION_PX)
    }
  const from: Int16Array[] = []
  for (let frame = 2; frame < likely.length; frame++) {
    const [next, taken] = stepped(likely[frame - 2]!, likely[frame - 1]!, likely[frame]!, costs)
    costs = next
    from.push(taken)
  }
  return traced(costs, from, likely)
}

/** Goes on by one frame. @returns The costs there, and which candidate of the first frame each best way came from. */
function stepped(
  before: Likely,
  here: Likely,
  next: Likely,
  costs: Float64Array,
): [Float64Array<ArrayBuffer>, Int16Array] {
  const [counts, hereCount] = [before.costs.length, here.costs.length]
  const out = new Float64Array(next.costs.length * hereCount).fill(Infinity)
  const from = new Int16Array(out.length)
  for (let j = 0; j < hereCount; j++) {
    for (let i = 0; i < counts; i++) {
      const cost = costs[j * counts + i]!
      const [aheadX, aheadY] = [2 * here.xs[j]! - before.xs[i]!, 2 * here.ys[j]! - before.ys[i]!]
      for (let k = 0; k < next.costs.length; k++) {
        const whole =
          cost + next.costs[k]! + turnCost(next.xs[k]! - aheadX, next.ys[k]! - aheadY, TURN_DEVIATION_PX)
        if (whole >= out[k * hereCount + j]!) continue
        out[k * hereCount + j] = whole
        from[k * hereCount + j] = i
      }
    }
  }
  return [out, from]
}

function traced(costs: Float64Array, from: readonly Int16Array[], likely: readonly Likely[]): number[] {
  let best = 0
  for (let at = 1; at < costs.length; at++) if (costs[at]! < costs[best]!) best = at
  const last = likely.length - 1
  const count = likely[last - 1]!.costs.length
  let [here, before] = [Math.floor(best / count), best % count]
  const out = [likely[last]!.indices[here]!]
  for (let frame = last; frame >= 2; frame--) {
    out.push(likely[frame - 1]!.indices[before]!)
    const earlier = from[frame - 2]![here * likely[frame - 1]!.costs.length + before]!
    here = before
    before = earlier
  }
  out.push(likely[0]!.indices[before]!)
  return out.reverse()
}

function turnCost(dx: number, dy: number, deviationPx: number): number {
  const cost = (dx * dx + dy * dy) / (2 * deviationPx * deviationPx)
  return cost < MOST_TURN_COST ? cost : MOST_TURN_COST
}
