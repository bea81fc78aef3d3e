import type { Frame } from '../time'

/** A point of a chart: of the frames that one pixel shows, the least and the greatest value. */
export interface SeriesPoint {
  readonly frame: Frame
  readonly min: number
  readonly max: number
}

/**
 * Values by frame, thinned to what a chart of so many pixels shows; nothing that stands out is lost.
 * @param values  The first of `firstFrame`; null where nothing was measured.
 */
export function thinSeries(
  values: readonly (number | null)[],
  firstFrame: Frame,
  maxPoints: number,
): SeriesPoint[] {
  if (!(maxPoints >= 1)) throw new RangeError(`maxPoints must be 1 or more. Received ${maxPoints}`)
  const each = Math.max(1, Math.ceil(values.length / maxPoints))
  const points: SeriesPoint[] = []
  for (let begin = 0; begin < values.length; begin += each) {
    const known = values.slice(begin, begin + each).filter((one) => one !== null)
    if (known.length > 0)
      points.push({ frame: firstFrame + begin, min: Math.min(...known), max: Math.max(...known) })
  }
  return points
}
