/** How dark a shadow is as a function of the depth in its area: averages over all places as deep, so that texture goes. */
import type { GroundLook } from './groundLook'

/** The profile goes so far outside and inside. */
export const OUTSIDE_PX = 20
const INSIDE_PX = 60
/** Darker by less than this, in logarithms of light, is not told from what is lit. */
export const LEAST_DARK = 0.03

/** Averages over all places of about the same depth, one for each px from outside to inside. */
export interface Profile {
  readonly colours: number
  /** Of each bin, colour by colour; 0 is what is lit. */
  readonly means: Float64Array
  readonly counts: Float64Array
  /** The mean of the colours, made to fall from outside to inside; 0 outside. */
  readonly falling: number[]
  /** The pixels of each bin that lie inside. */
  readonly members: readonly Int32Array[]
}

export function profileOf({ offs, say }: GroundLook, depths: Float32Array): Profile {
  const colours = offs.channels
  const deepest = depths.reduce((most, depth) => Math.max(most, depth), 0)
  const bins = OUTSIDE_PX + Math.min(INSIDE_PX, Math.max(1, Math.floor(deepest))) + 1
  const [sums, weights, counts] = [
    new Float64Array(bins * colours),
    new Float64Array(bins),
    new Float64Array(bins),
  ]
  const members: number[][] = Array.from({ length: bins }, () => [])
  for (let pixel = 0; pixel < depths.length; pixel++) {
    const bin = Math.round(depths[pixel]! + OUTSIDE_PX)
    if (!(bin >= 0 && bin < bins) || say[pixel] === 0) continue
    if (depths[pixel]! > 0) members[bin]!.push(pixel)
    counts[bin]!++
    weights[bin]! += say[pixel]!
    for (let c = 0; c < colours; c++)
      sums[bin * colours + c]! += say[pixel]! * offs.data[pixel * colours + c]!
  }
  const means = sums.map((sum, i) => sum / Math.max(1e-9, weights[Math.floor(i / colours)]!))
  takeLitOff(means, counts, colours)
  const lightness = Array.from(counts, (_, bin) => {
    let sum = 0
    for (let c = 0; c < colours; c++) sum += means[bin * colours + c]!
    return sum / colours
  })
  const falling = [
    ...new Array<number>(OUTSIDE_PX + 1).fill(0),
    ...fallingMeans(lightness.slice(OUTSIDE_PX + 1), counts.subarray(OUTSIDE_PX + 1)).map((one) =>
      Math.min(0, one),
    ),
  ]
  return { colours, means, counts, falling, members: members.map((list) => Int32Array.from(list)) }
}

/** What is outside is lit by definition. */
function takeLitOff(means: Float64Array, counts: Float64Array, colours: number): void {
  for (let c = 0; c < colours; c++) {
    let [sum, count] = [0, 0]
    for (let bin = 0; bin <= OUTSIDE_PX; bin++) {
      sum += counts[bin]! * means[bin * colours + c]!
      count += counts[bin]!
    }
    for (let bin = 0; count > 0 && bin < counts.length; bin++) means[bin * colours + c]! -= sum / count
  }
}

/** The nearest row of numbers that never rises, by squares; neighbours that would rise are pooled. */
export function fallingMeans(values: readonly number[], weights: ArrayLike<number>): number[] {
  const pools: { mean: number; weight: number; length: number }[] = []
  values.forEach((mean, i) => {
    pools.push({ mean, weight: Math.max(weights[i]!, 1e-3), length: 1 })
    while (pools.length > 1 && pools.at(-2)!.mean < pools.at(-1)!.mean) {
      const [a, b] = pools.splice(-2) as [(typeof pools)[number], (typeof pools)[number]]
      const weight = a.weight + b.weight
      pools.push({
        mean: (a.mean * a.weight + b.mean * b.weight) / weight,
        weight,
        length: a.length + b.length,
      })
    }
  })
  return pools.flatMap(({ mean, length }) => new Array<number>(length).fill(mean))
}

/** Bins in which the shadow is full, and how dark it is there. */
export interface Full {
  readonly bins: readonly number[]
  readonly lightness: number
}

/** Of the inside this share is full at least; what is this near to it is full too. */
const FULL_SHARE = 0.15
const NEARLY_FULL = 0.75

export function fullDepth({ falling, counts }: Profile): Full | null {
  const inside = falling.map((_, bin) => bin).filter((bin) => bin > OUTSIDE_PX && counts[bin]! > 0)
  const whole = inside.reduce((sum, bin) => sum + counts[bin]!, 0)
  let passed = 0
  let full = 0
  for (const bin of [...inside].sort((a, b) => falling[a]! - falling[b]!)) {
    passed += counts[bin]!
    full = falling[bin]!
    if (passed >= FULL_SHARE * whole) break
  }
  if (!(full < -LEAST_DARK)) return null
  const bins = inside.filter((bin) => falling[bin]! <= NEARLY_FULL * full)
  const weight = bins.reduce((sum, bin) => sum + counts[bin]!, 0)
  return { bins, lightness: bins.reduce((sum, bin) => sum + counts[bin]! * falling[bin]!, 0) / weight }
}

/** The mean of each colour over some bins. */
export function meanOver({ means, counts, colours }: Profile, bins: readonly number[]): number[] {
  const weight = bins.reduce((sum, bin) => sum + counts[bin]!, 0)
  return Array.from({ length: colours }, (_, c) =>
    bins.reduce((sum, bin) => sum + (counts[bin]! * means[bin * colours + c]!) / weight, 0),
  )
}

/** The mean of some values over the places of a bin that lie inside; 0 where there are none. */
export function meanAt(strengths: Float32Array, { members }: Profile, bin: number): number {
  const pixels = members[bin]!
  if (pixels.length === 0) return 0
  let sum = 0
  for (const pixel of pixels) sum += strengths[pixel]!
  return sum / pixels.length
}
