/**
 * The guided filter with a guide of one channel: a map is averaged over squares, but not across the edges of the guide.
 * Places that are not known have no say.
 * Sources: K. He, J. Sun and X. Tang, "Guided image filtering", ECCV 2010; for costs of labels: C. Rhemann et al., "Fast
 * cost-volume filtering for visual correspondence and beyond", CVPR 2011.
 */
import { boxSums } from './windows'

export interface GuideInput {
  readonly guide: Float32Array
  readonly width: number
  readonly height: number
  readonly radiusPx: number
  /** Deviation of the guide below which it shows no edge, in its own scale. */
  readonly edgeDeviation: number
}

/**
 * @param map  To be averaged, as large as the guide. @param known  1 where the map is known, 0 elsewhere.
 * @param fewest  Places known in a square below which nothing is said of its middle.
 * @returns The averaged map; Infinity where too little is known.
 */
export function guidedMean(
  { guide, width, height, radiusPx, edgeDeviation }: GuideInput,
  map: Float32Array,
  known: Float32Array,
  min: number,
): Float32Array {
  const product = (a: Float32Array, b: Float32Array) => a.map((value, i) => value * b[i]!)
  const sums = (of: Float32Array) => boxSums(of, width, height, radiusPx)
  const [guideKnown, mapKnown] = [product(guide, known), product(map, known)]
  const [n, sumGuide, sumMap] = [sums(known), sums(guideKnown), sums(mapKnown)]
  const [sumBoth, sumSquare] = [sums(product(guide, mapKnown)), sums(product(guide, guideKnown))]
  const floor = edgeDeviation * edgeDeviation
  const [slope, rest] = [new Float32Array(map.length), new Float32Array(map.length)]
  const told = new Float32Array(map.length)
  for (let i = 0; i < map.length; i++) {
    if (n[i]! < min) continue
    const [meanGuide, meanMap] = [sumGuide[i]! / n[i]!, sumMap[i]! / n[i]!]
    const variance = Math.max(0, sumSquare[i]! / n[i]! - meanGuide * meanGuide)
    slope[i] = (sumBoth[i]! / n[i]! - meanGuide * meanMap) / (variance + floor)
    rest[i] = meanMap - slope[i]! * meanGuide
    told[i] = 1
  }
  const [slopes, rests, tellers] = [sums(slope), sums(rest), sums(told)]
  const out = new Float32Array(map.length).fill(Infinity)
  for (let i = 0; i < map.length; i++)
    if (n[i]! >= min) out[i] = (slopes[i]! * guide[i]! + rests[i]!) / tellers[i]!
  return out
}
