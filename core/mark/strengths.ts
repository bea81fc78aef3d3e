/** How much of a mark a frame shows, for marks that fade. */
import type { MarkPicture } from '../image/markPicture'
import { NOT_ASKED, type MarkObservation } from './observation'

/** Parts of a mark, from its top to its foot, that tell its strength each by itself. */
const PARTS = 5
/** A part that changes less than this share of what all do tells nothing. */
const MIN_PART = 0.04

/**
 * How much of a mark a frame shows, told by each of its parts by least squares, in rising order: what passes over one part makes the others no weaker.
 * @param say  How much each place counts.
 */
export function strengthsOf(
  { plate, ground, known }: MarkObservation,
  { added, opacity, channels }: Pick<MarkPicture, 'added' | 'opacity' | 'channels'>,
  say: (at: number) => number,
): number[] {
  const [crosses, squares] = [new Float64Array(PARTS), new Float64Array(PARTS)]
  for (let at = 0; at < known.length; at++) {
    if (known[at] === NOT_ASKED || opacity[at] === 0) continue
    const part = Math.floor((at * PARTS) / known.length)
    const weight = say(at)
    for (let c = 0; c < channels; c++) {
      const i = at * channels + c
      const change = added[i]! - opacity[at]! * ground[i]!
      crosses[part]! += weight * (plate[i]! - ground[i]!) * change
      squares[part]! += weight * change * change
    }
  }
  const all = squares.reduce((sum, one) => sum + one, 0)
  return Array.from(crosses, (cross, part) => cross / squares[part]!)
    .filter((_, part) => squares[part]! > MIN_PART * all)
    .sort((a, b) => a - b)
}

/** The middle one of what its parts tell; none where there is no part. */
export const middleOf = (strengths: readonly number[]): number => strengths[strengths.length >> 1] ?? 0

/** What the plate would show if the mark were whole there. */
export const fullStrength = (plate: number, ground: number, strength: number): number =>
  strength === 1 ? plate : ground + (plate - ground) / strength
