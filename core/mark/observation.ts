/** What frames show of a mark's places, with it and, as far as they know, without it. */

/** What one frame shows of every place of the mark, in the mark's own places; channels interleaved. */
export interface MarkObservation {
  readonly plate: Float32Array
  readonly ground: Float32Array
  /** For each place: NOT_ASKED, GUESSED from what is around, or SEEN on other frames. */
  readonly known: Uint8Array
}
export const NOT_ASKED = 0
export const GUESSED = 1
export const SEEN = 2

/** Places that any frame is asked about. */
export function askedOf(observations: readonly MarkObservation[], size: number): Int32Array {
  const out = new Int32Array(size)
  let count = 0
  for (let at = 0; at < size; at++)
    if (observations.some(({ known }) => known[at] !== NOT_ASKED)) out[count++] = at
  return out.slice(0, count)
}

/** How many frames showed the ground at each place. */
export function countsOf(observations: readonly MarkObservation[], size: number): Float32Array {
  const counts = new Float32Array(size)
  for (const { known } of observations)
    for (let at = 0; at < size; at++) if (known[at] === SEEN) counts[at]!++
  return counts
}
