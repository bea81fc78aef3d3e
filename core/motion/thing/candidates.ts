/** Where an outline may lie on a frame. */

/** A shift of an outline from where it is expected, cells, and how well it fits there. */
export interface Candidate {
  readonly dx: number
  readonly dy: number
  readonly score: number
}

const MAX_CANDIDATES = 24
/** Shifts no further than this from a better one tell the same, and are looked at closely only where they are good, cells. */
const APART = 2

/**
 * The best shifts of an outline on a frame, the best first, each apart from the others.
 * @param scoreAt  How well a shift fits. @param reach  How far it is looked for, cells.
 */
export function candidatesOf(scoreAt: (dx: number, dy: number) => number, reach: number): Candidate[] {
  const scored = (dx: number, dy: number): Candidate => ({ dx, dy, score: scoreAt(dx, dy) })
  if (reach === 0) return [scored(0, 0)]
  const found: Candidate[] = []
  for (let dy = -reach; dy <= reach; dy += APART)
    for (let dx = -reach; dx <= reach; dx += APART) found.push(scored(dx, dy))
  found.sort((a, b) => b.score - a.score)
  const chosen: Candidate[] = []
  for (const one of found) {
    if (chosen.length === MAX_CANDIDATES) break
    const isNear = (other: Candidate) =>
      Math.abs(other.dx - one.dx) <= APART && Math.abs(other.dy - one.dy) <= APART
    if (!chosen.some(isNear)) chosen.push(one)
  }
  return chosen.map((one) => {
    let best = one
    for (let dy = one.dy - APART + 1; dy < one.dy + APART; dy++) {
      for (let dx = one.dx - APART + 1; dx < one.dx + APART; dx++) {
        const next = scored(dx, dy)
        if (next.score > best.score) best = next
      }
    }
    return refined(scoreAt, best)
  })
}

/** Between cells, by the parabola through the neighbours. */
function refined(scoreAt: (dx: number, dy: number) => number, { dx, dy, score }: Candidate): Candidate {
  const here = scoreAt(dx, dy)
  const off = (before: number, after: number): number => {
    const bend = before - 2 * here + after
    return bend < 0 ? Math.min(0.5, Math.max(-0.5, (before - after) / (2 * bend))) : 0
  }
  return {
    dx: dx + off(scoreAt(dx - 1, dy), scoreAt(dx + 1, dy)),
    dy: dy + off(scoreAt(dx, dy - 1), scoreAt(dx, dy + 1)),
    score,
  }
}
