/** The way of a thing through all frames: of each frame's candidates the one that goes best with all the others. */
import type { Catch } from './catches'

/** A change of speed of so many cells a frame is nothing unusual; what exceeds it by much is no worse than a loss. */
const USUAL = 1.5
const WORST = 3
/** What is caught, as against the most that any candidate of the frame catches, weighs so much. */
const CAUGHT_WEIGHT = 24

/**
 * Dynamic programming over pairs of neighbouring frames, so that a change of speed costs, and not speed itself.
 * Source: A. Amini, T. Weymouth, R. Jain, "Using dynamic programming for solving variational problems in vision", PAMI 12, 1990.
 *
 * @param frames  Candidates of each frame, at least one each. @returns Which one of each.
 */
export function wayOf(frames: readonly (readonly Catch[])[]): number[] {
  if (frames.length === 0) return []
  if (frames.length === 1) return [0]
  const prices = frames.map(pricesOf)
  // Of each pair (before, now): the least price of all that leads there, and from which one before the two.
  let costs = frames[1]!.map((_, now) =>
    frames[0]!.map((__, before) => prices[0]![before]! + prices[1]![now]!),
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
          const price = costs[b]![o]! + Math.min(WORST, (x * x + y * y) / (2 * USUAL * USUAL))
          if (price >= least) return
          least = price
          back[n * first.length + b] = o
        })
        return least + prices[i]![n]!
      }),
    )
    from.push(back)
  }
  let [now, before, least] = [0, 0, Infinity]
  costs.forEach((row, n) =>
    row.forEach((price, b) => {
      if (price < least) [now, before, least] = [n, b, price]
    }),
  )
  const way = [now, before]
  for (let i = frames.length - 1; i >= 2; i--) {
    const next = from[i - 2]![now * frames[i - 1]!.length + before]!
    way.push(next)
    ;[now, before] = [before, next]
  }
  return way.reverse()
}

function pricesOf(candidates: readonly Catch[]): number[] {
  const most = Math.max(...candidates.map(({ share }) => share))
  return candidates.map(({ share }) => CAUGHT_WEIGHT * (most - share))
}
