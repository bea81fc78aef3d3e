/**
 * One frame for each place: its grain stays as it is, and where one frame ends and the next begins, they look most
 * alike. Labels are improved place by place until no change of one makes the whole better.
 * Source: iterated conditional modes, J. Besag, J. R. Statist. Soc. B 48(3), 1986; seams as in A. Agarwala et al.,
 * "Interactive digital photomontage", SIGGRAPH 2004.
 */
import type { Gathered } from './gatherInput'

const ROUNDS = 6
/** What leaving the nearest frame costs, and what a seam between two that look alike costs, in tolerances. */
const PER_RANK = 0.06
const PER_SEAM = 0.15

export type SingleSource = Pick<Gathered, 'values' | 'variance' | 'from'>

/** @param pixels  Of the gathered places, in rising order. @param width  Of the crop. */
export function singleSources(gathered: Gathered, pixels: Int32Array, width: number): SingleSource {
  const { readings, weights, tolerances, reports } = gathered
  const channels = tolerances.length
  const count = pixels.length
  const order = [...weights.keys()].sort((a, b) => weights[b]! - weights[a]!)
  const indexOf = new Map<number, number>()
  pixels.forEach((pixel, i) => indexOf.set(pixel, i))
  const beside = Int32Array.from({ length: count * 4 }, (_, k) => {
    const pixel = pixels[k >> 2]!
    return indexOf.get(pixel + [-1, 1, -width, width][k & 3]!) ?? -1
  })
  const misfit = (i: number, frame: number): number => {
    const { values, kept } = readings[frame]!
    if (kept[i]! <= 0) return Infinity
    let off = 0
    for (let c = 0; c < channels; c++)
      off = Math.max(
        off,
        Math.abs(values[i * channels + c]! - gathered.values[i * channels + c]!) / tolerances[c]!,
      )
    return off < 1 ? 0 : off * 4
  }
  const ranks = new Float64Array(order.length)
  order.forEach((frame, rank) => (ranks[frame] = rank * PER_RANK))
  const labels = new Int32Array(count).fill(-1)
  for (let i = 0; i < count; i++) {
    let min = Infinity
    for (const frame of order) {
      const cost = misfit(i, frame) + ranks[frame]!
      if (cost < min) [labels[i], min] = [frame, cost]
    }
  }
  const seam = (i: number, j: number, a: number, b: number): number => {
    if (a === b || b < 0) return 0
    let off = 0
    for (const k of [i, j]) {
      const [one, two] = [readings[a]!, readings[b]!]
      if (one.kept[k]! <= 0 || two.kept[k]! <= 0) return PER_SEAM + 1
      for (let c = 0; c < channels; c++)
        off += Math.abs(one.values[k * channels + c]! - two.values[k * channels + c]!) / tolerances[c]!
    }
    return PER_SEAM + off / (2 * channels)
  }
  for (let round = 0; round < ROUNDS; round++) {
    let isChanged = false
    for (let i = 0; i < count; i++) {
      if (labels[i]! < 0) continue
      const costOf = (frame: number): number => {
        let cost = misfit(i, frame) + ranks[frame]!
        for (let k = 0; k < 4 && cost < Infinity; k++) {
          const j = beside[4 * i + k]!
          if (j >= 0) cost += seam(i, j, frame, labels[j]!)
        }
        return cost
      }
      let [best, min] = [labels[i]!, costOf(labels[i]!)]
      // Only what a neighbour has already can make fewer seams.
      for (let k = 0; k < 4; k++) {
        const j = beside[4 * i + k]!
        const other = j < 0 ? -1 : labels[j]!
        if (other < 0 || other === best) continue
        const cost = costOf(other)
        if (cost < min - 1e-9) [best, min] = [other, cost]
      }
      if (best === labels[i]) continue
      labels[i] = best
      isChanged = true
    }
    if (!isChanged) break
  }
  const out = {
    values: gathered.values.slice(),
    variance: gathered.variance.slice(),
    from: new Int32Array(count).fill(-1),
  }
  for (let i = 0; i < count; i++) {
    const frame = labels[i]!
    if (frame < 0) continue
    const { values, kept } = readings[frame]!
    for (let c = 0; c < channels; c++) out.values[i * channels + c] = values[i * channels + c]!
    out.variance[i] = kept[i]!
    out.from[i] = reports[frame]!.frame
  }
  return out
}
