/** Where the parabola through three neighbouring values is lowest, from the middle one: half a step away at most. Source: common practice. */
export function lowestBetween(before: number, middle: number, after: number): number {
  const bend = before + after - 2 * middle
  return bend > 1e-9 ? Math.min(0.5, Math.max(-0.5, (before - after) / (2 * bend))) : 0
}
