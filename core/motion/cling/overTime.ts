/**
 * A line through all frames at once: on each frame it may be in several places, and the way through them is taken that fits
 * best and turns least. So a wire beside another like it stays itself.
 *
 * Dynamic programming over pairs of places on neighbouring frames, which have a velocity.
 * Source: A. Viterbi, IEEE Trans. Information Theory 13(2), 1967; with velocities after A. Amini et al., IEEE PAMI 12(9), 1990.
 */
import type { PathPoint } from '../../geometry/pathCurve'
import type { ClingCandidate } from './clung'

type Points = readonly PathPoint[]

/** A way up to some frame: the last two places of it. */
interface Way {
  readonly before: Points | null
  readonly here: Points
  readonly cost: number
  readonly quality: number
  readonly from: Way | null
}

/** What a place costs that does not fit at all. */
const UNFIT_COST = 4
/** Nothing is seen, and the line is where it was heading. */
const UNSEEN_COST = 2.8
/** Deviation of the change of velocity from frame to frame, px, and of the first velocity; no change costs more than so much. */
const [TURN_DEVIATION_PX, FIRST_DEVIATION_PX, MAX_TURN_COST] = [5, 30, 8] as const
/** Ways that are kept. */
const MAX_WAYS = 24
/** Ways whose next places are looked at closely. */
const LED_BY = 3

export interface Solved {
  readonly points: Points
  /** 0 where it was not seen. */
  readonly quality: number
}

export class WaysOverTime {
  #ways: Way[]

  /** @param before  Where it was on the frame before, where that is known. */
  constructor(first: Points, before: Points | null = null) {
    this.#ways = [{ before, here: first, cost: 0, quality: 1, from: null }]
  }

  /** Where to look on the next frame: where the best way is, and where the best ones lead. */
  get leads(): Points[] {
    return [this.#ways[0]!.here, ...this.#ways.slice(0, LED_BY).map(ahead)]
  }

  /** Goes on by one frame. */
  add(candidates: readonly ClingCandidate[]): void {
    const next: Way[] = []
    for (const from of this.#ways) {
      const unseen = ahead(from)
      const base = { before: from.here, from }
      next.push({ ...base, here: unseen, quality: 0, cost: from.cost + UNSEEN_COST })
      for (const { points, quality } of candidates) {
        const unfit = UNFIT_COST * Math.max(0, 1 - quality)
        next.push({ ...base, here: points, quality, cost: from.cost + unfit + turnCost(from, points) })
      }
    }
    // Of ways that end in the same two places only the best goes on.
    const kept: Way[] = []
    for (const way of next.sort((a, b) => a.cost - b.cost)) {
      if (kept.length === MAX_WAYS) break
      if (!kept.some((other) => other.here === way.here && other.before === way.before)) kept.push(way)
    }
    this.#ways = kept
  }

  /** The best way, from the first frame that was added on. */
  best(): Solved[] {
    const out: Solved[] = []
    for (let way: Way | null = this.#ways[0]!; way?.from; way = way.from)
      out.push({ points: way.here, quality: way.quality })
    return out.reverse()
  }
}

/** Where a way leads on the next frame. */
const ahead = ({ before, here }: Way): Points =>
  before
    ? here.map((point, i) => ({ ...point, x: 2 * point.x - before[i]!.x, y: 2 * point.y - before[i]!.y }))
    : here

/** Both ends count: across the line, since along it nothing tells how it has moved. */
function turnCost(from: Way, to: Points): number {
  const expected = ahead(from)
  const deviation = from.before ? TURN_DEVIATION_PX : FIRST_DEVIATION_PX
  let cost = 0
  for (const i of [0, to.length - 1]) {
    const off = across(expected, i, to[i]!)
    cost += (off * off) / (2 * deviation * deviation)
  }
  return Math.min(MAX_TURN_COST, cost)
}

/** How far a place lies from the line through the points around one of them, px. */
function across(points: Points, at: number, { x, y }: PathPoint): number {
  const [a, b] = at === 0 ? [points[0]!, points[1]!] : [points[at]!, points[at - 1]!]
  const [dx, dy] = [b.x - a.x, b.y - a.y]
  const length = Math.sqrt(dx * dx + dy * dy) || 1
  return Math.abs((x - a.x) * dy - (y - a.y) * dx) / length
}
