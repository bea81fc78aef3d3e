/** How far frames tell by themselves which places a mark changes, before any model of it. */
import { NOT_ASKED, type MarkObservation } from './observation'
import { fullStrength } from './strengths'

/** So many frames must have shown the ground at a place for that to be known. */
export const ENOUGH_SEEN = 3
/** Where most places were seen on other frames, one that was not and is off by more deviations than this may be the mark's. */
const MAYBE = 1.5
const MOSTLY_SEEN = 0.4
/** Guessed ground is off in the same way on frames near each other: so many count as one. */
const ALIKE_FRAMES = 3
/** Steps of the power method; its start, all colours alike, is what most marks change. */
const POWER_STEPS = 24

/**
 * The mixture of colours in which the mark changes the ground most, of length 1: brightness for white and black ones, what sets its colour apart for a
 * coloured one. The first eigenvector of the second moments, by the power method.
 */
export function directionOfChange(observations: readonly MarkObservation[], channels: number): Float64Array {
  const moments = new Float64Array(channels * channels)
  for (const { plate, ground, known } of observations) {
    for (let at = 0; at < known.length; at++) {
      if (known[at] === NOT_ASKED) continue
      const from = at * channels
      for (let a = 0; a < channels; a++)
        for (let b = 0; b < channels; b++)
          moments[a * channels + b]! +=
            (plate[from + a]! - ground[from + a]!) * (plate[from + b]! - ground[from + b]!)
    }
  }
  let direction = new Float64Array(channels).fill(1)
  for (let step = 0; step < POWER_STEPS; step++) {
    const next = direction.map((_, a) =>
      direction.reduce((sum, one, b) => sum + moments[a * channels + b]! * one, 0),
    )
    const length = Math.sqrt(next.reduce((sum, one) => sum + one * one, 0))
    if (!(length > 0)) break
    direction = next.map((one) => one / length)
  }
  const sum = direction.reduce((total, one) => total + one, 0)
  return sum < 0 ? direction.map((one) => -one) : direction
}

/** 1 for each place that may be the mark's although hardly a frame has shown what lies there: only where most others were seen. */
export function untoldOf(asked: Int32Array, seenCounts: Float32Array, clearness: Float32Array): Uint8Array {
  const untold = new Uint8Array(seenCounts.length)
  let seen = 0
  for (const at of asked) if (seenCounts[at]! >= ENOUGH_SEEN) seen++
  if (seen < MOSTLY_SEEN * asked.length) return untold
  for (const at of asked) if (seenCounts[at]! < ENOUGH_SEEN && clearness[at]! >= MAYBE) untold[at] = 1
  return untold
}

/** For each place, by how many of its own deviations plate and ground differ on average. */
export function clearnessOf(
  observations: readonly MarkObservation[],
  strengths: readonly number[],
  size: number,
  direction: Float64Array,
): Float32Array {
  const channels = direction.length
  const out = new Float32Array(size)
  for (let at = 0; at < size; at++) {
    let [count, sum, squares] = [0, 0, 0]
    for (let f = 0; f < observations.length; f++) {
      const { plate, ground, known } = observations[f]!
      const strength = strengths[f]!
      if (known[at] === NOT_ASKED || strength === 0) continue
      let off = 0
      for (let c = 0; c < channels; c++) {
        const i = at * channels + c
        off += direction[c]! * (fullStrength(plate[i]!, ground[i]!, strength) - ground[i]!)
      }
      const weight = strength * strength
      count += weight
      sum += weight * off
      squares += weight * off * off
    }
    if (count < 2) continue
    const mean = sum / count
    const variance = Math.max(1e-7, squares / count - mean * mean) * (ALIKE_FRAMES / count)
    out[at] = Math.abs(mean) / Math.sqrt(variance)
  }
  return out
}
