/** How strong the grain of a frame is, from frames beside it that lie along the motion. */
import { LIGHT_MAX, type Light } from './light'

/** Bins of light in which grain is measured. */
const BINS = 16
const BIN_LIGHT = (LIGHT_MAX + 4) / BINS
/** Differences are counted one by one up to here: grain is less. */
const OFFS = 512
/** A bin with fewer pixels tells nothing. */
const MIN_TOLD = 200

/** Deviation of the grain of one frame, steps of light, at each bin: from what the frames beside differ by, grain of three frames taken apart. */
export function grainOf({ data }: Light, a: Int16Array, b: Int16Array): Float32Array {
  const counts = new Int32Array(BINS * OFFS)
  const totals = new Int32Array(BINS)
  for (let i = 0; i < data.length; i += 3) {
    if (a[i]! < 0 || b[i]! < 0) continue
    const bin = (data[i]! / BIN_LIGHT) | 0
    // The lesser of the two: what the motion of one of them missed is not grain.
    const off = Math.min(Math.abs(data[i]! - a[i]!), Math.abs(data[i]! - b[i]!), OFFS - 1)
    counts[bin * OFFS + off]!++
    totals[bin]!++
  }
  const out = new Float32Array(BINS)
  let known = 0
  for (let bin = 0; bin < BINS; bin++) {
    const total = totals[bin]!
    if (total > MIN_TOLD) known = medianIn(counts.subarray(bin * OFFS, (bin + 1) * OFFS), total) / LESSER
    out[bin] = Math.max(1, known)
  }
  for (let bin = BINS - 2; bin >= 0; bin--)
    if (totals[bin]! <= MIN_TOLD) out[bin] = Math.max(out[bin]!, out[bin + 1]!)
  return out
}

/** The median of the lesser of two absolute differences that share one frame's grain, in deviations of that grain: .548 by two million draws. */
const LESSER = 0.55

function medianIn(counts: Int32Array, total: number): number {
  let sum = 0
  for (let off = 0; off < counts.length; off++) {
    sum += counts[off]!
    if (2 * sum >= total) return off + 0.5
  }
  return counts.length
}

/** The deviation of the grain at a light. */
export const grainAt = (grain: Float32Array, light: number): number =>
  grain[light <= 0 ? 0 : Math.min(BINS - 1, (light / BIN_LIGHT) | 0)]!
