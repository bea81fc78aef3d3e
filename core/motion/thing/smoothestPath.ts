/** A path through the candidates of all frames that scores well and changes its speed little. */
import type { Candidate } from './candidates'

/** A change of speed of so many cells a frame is nothing unusual; what exceeds it by much is no worse than a loss. */
const USUAL_BEND = 1.5
const MAX_BEND_COST = 3
/** What a candidate scores less than the best of its frame weighs so much. */
const SCORE_WEIGHT = 24

/**
 * Dynamic programming over pairs of neighbouring frames, so that a change of speed costs, and not speed itself.
 * Source: A. Amini, T. Weymouth, R. Jain, "Using dynamic programming for solving variational problems in vision", PAMI 12, 1990.
 *
 * @param frames  Candidates of each frame, at least one each. @returns Which one of each.
 */
export function smoothestPath(frames: readonly (readonly Candidate[])[]): number[] {
  if (frames.length === 0) return []
  if (frames.length === 1) return [0]
  const ownCosts = frames.map(costsOf)
  // Of each pair (before, now): the least cost of all that leads there, and from which one before the two.
  let costs = frames[1]!.map((_, now) =>
    frames[0]!.map((__, before) => ownCosts[0]![before]! + ownCosts[1]![now]!),
  )
  const from: Int16Array[] = []
  for (let i = 2; i < frames.length; i++) {
    const [second, first, here] = [frames[i - 2]!, frames[i - 1]!, frames[i]!]
    const back = new Int16Array(here.length * first.length)
    costs = here.map((now, n) =>
      first.map((before, b) => {
        let least = Infinity
        second.forEach((old, o) => {
          const x = now.dx - 2 * before.dx + old.dx
          const y = now.dy - 2 * before.dy + old.dy
          const cost =
            costs[b]![o]! + Math.min(MAX_BEND_COST, (x * x + y * y) / (2 * USUAL_BEND * USUAL_BEND))
          if (cost >= least) return
          least = cost
          back[n * first.length + b] = o
        })
        return least + ownCosts[i]![n]!
      }),
    )
    from.push(back)
  }
  let [now, before, least] = [0, 0, Infinity]
  costs.forEach((row, n) =>
    row.forEach((cost, b) => {
      if (cost < least) [now, before, least] = [n, b, cost]
    }),
  )
  const path = [now, before]
  for (let i = frames.length - 1; i >= 2; i--) {
    const next = from[i - 2]![now * frames[i - 1]!.length + before]!
    path.push(next)
    ;[now, before] = [before, next]
  }
  return path.reverse()
}

function costsOf(candidates: readonly Candidate[]): number[] {
  const max = Math.max(...candidates.map(({ score }) => score))
  return candidates.map(({ score }) => SCORE_WEIGHT * (max - score))
}
