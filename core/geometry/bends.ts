/**
 * The fewest of the points between which all others lie straight, within a tolerance; the first and the last are among them.
 *
 * @param offLine  How far a point is off what leads straight from one to another.
 * Source: D. H. Douglas, T. K. Peucker, "Algorithms for the reduction of the number of points required to represent a digitized line", Cartographica 10, 1973.
 */
export function bendsOf<P>(
  points: readonly P[],
  tolerance: number,
  offLine: (point: P, from: P, to: P) => number,
): P[] {
  if (points.length < 3) return [...points]
  const isKept = new Uint8Array(points.length)
  isKept[0] = isKept[points.length - 1] = 1
  const spans: (readonly [number, number])[] = [[0, points.length - 1]]
  for (let span = spans.pop(); span; span = spans.pop()) {
    const [from, to] = span
    let [worst, at] = [tolerance, -1]
    for (let i = from + 1; i < to; i++) {
      const off = offLine(points[i]!, points[from]!, points[to]!)
      if (off > worst) [worst, at] = [off, i]
    }
    if (at < 0) continue
    isKept[at] = 1
    spans.push([from, at], [at, to])
  }
  return points.filter((_, i) => isKept[i] === 1)
}
