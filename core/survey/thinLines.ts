/** Thin lines of a clip: ridges that go alone, measured in the full-size picture. */
import { createPathCurve, pathPointAt, type PathPoint } from '../geometry/pathCurve'
import { medianOf } from '../image/median'
import type { Plane } from '../image/raster'
import type { Size } from '../image/rect'
import type { Samples } from '../image/samples'
import type { Frame } from '../time'
import { MAX_KEYS, type Find } from './finds'
import type { Way } from './movesIndependently'
import { createLineFit, type LineFit, type Rows } from './lineFit'
import { followLines, type Track } from './lines'
import { CELL_PX } from './quarter'

/** Its middle is that on the first frame it was seen on; its keys are frames that were looked at, all with as many points. */
export type ThinLine = Omit<Extract<Find, { kind: 'line' }>, 'id'>

export interface FoundLines {
  readonly alone: readonly ThinLine[]
  /** Candidates where the picture as a whole is at rest: nothing tells whether they belong to it. */
  readonly resting: readonly ThinLine[]
}

interface LineDetector {
  /** One frame out of `LINES_EVERY`. @param at  Where the picture as a whole is, cells. */
  look(frame: Frame, samples: Samples, quarter: Plane, at: Way): void
  cut(): void
  finish(): FoundLines
}

/** Frames from one that is looked at to the next. */
export const LINES_EVERY = 6

/** A line goes alone in so many of the comparisons, over so many rows with no longer gaps, and is seen in so many looks. */
const MIN_COMPARISONS = 4
const MIN_SHARE = 0.45
const MIN_ROWS = 20
const LONGEST_GAP = 6
const MIN_SEEN = 0.6
/** So far beyond the rows that were seen to go alone it is still the same line. */
const BEYOND_ROWS = 40

export function detectLines(picture: Size): LineDetector {
  const follower = followLines()
  const fits = new Map<Track, LineFit>()
  const found: ThinLine[] = []
  const end = (tracks: readonly Track[]) => {
    for (const track of tracks) {
      const line = lineOf(track, fits.get(track)!, picture)
      if (line) found.push(line)
      fits.delete(track)
    }
  }
  return {
    look(frame, samples, quarter, at) {
      const { shown, ended } = follower.look(frame, quarter, at)
      end(ended)
      for (const track of shown) {
        const fit = fits.get(track) ?? createLineFit(track.isAcross, picture)
        fits.set(track, fit)
        fit.cache(frame, track.sightings.at(-1)!.path, samples)
        const rows = aloneRows(track)
        if (rows) fit.measure(extentOf(track, rows))
      }
    },
    cut: () => end(follower.end()),
    finish() {
      const tracks = follower.end()
      const resting = tracks.filter((track) => !aloneRows(track) && comesInAtRest(track, picture))
      const lines =
        resting.length <= MAX_RESTING ? resting.flatMap((track) => restingLine(track, fits.get(track)!)) : []
      end(tracks)
      return { alone: found, resting: lines }
    },
  }
}

/** In how many of the comparisons the row that goes alone most often did so. */
const shareAlone = ({ alone, comparisons }: Track): number =>
  alone.reduce((a, b) => (a > b ? a : b), 0) / comparisons

/** The longest stretch in which a track goes alone; null where that is too little to tell. */
function aloneRows(track: Track): Rows | null {
  const { alone, comparisons, seen, looks } = track
  if (comparisons < MIN_COMPARISONS || seen < MIN_SEEN * looks || shareAlone(track) < MIN_SHARE) return null
  let longest: Rows = { from: 0, to: 0 }
  let from = -1
  let last = -1
  for (let row = 0; row <= alone.length; row++) {
    const isAlone = row < alone.length && alone[row]! > 0
    if (isAlone && from < 0) from = row
    if (isAlone) last = row
    if (from < 0 || (row < alone.length && row - last <= LONGEST_GAP)) continue
    if (last + 1 - from > longest.to - longest.from) longest = { from, to: last + 1 }
    from = -1
  }
  return longest.to - longest.from < MIN_ROWS ? null : longest
}

/** From where to where the line was ever seen, as far as it is the same one, and what a ridge loses at an end to what it touches. */
const extentOf = (track: Track, { from, to }: Rows): Rows => ({
  from: Math.max(from - BEYOND_ROWS, Math.min(from, track.from)) - LOST_ROWS,
  to: Math.min(to + BEYOND_ROWS, Math.max(to, track.to)) + LOST_ROWS,
})
const LOST_ROWS = 5

/** A line at rest is a candidate if it was there all the time, comes from outside, and is as long: shares of the looks and of the picture. */
const ALWAYS = 0.85
const MIN_LOOKS = 3
const MIN_LENGTH = 0.25
const FROM_EDGE_ROWS = 2
/** Bars and joints come in sets. */
const MAX_RESTING = 2
const RESTING_SURE = 0.4

function comesInAtRest({ sightings, seen, looks, isAcross }: Track, { width, height }: Size): boolean {
  const { first, places } = sightings.at(-1)!.path
  const rows = Math.floor((isAcross ? width : height) / CELL_PX)
  const comesIn = first <= FROM_EDGE_ROWS || first + places.length >= rows - FROM_EDGE_ROWS
  return comesIn && places.length >= MIN_LENGTH * rows && seen >= Math.max(MIN_LOOKS, ALWAYS * looks)
}

function restingLine(track: Track, fit: LineFit): ThinLine[] {
  const last = track.sightings.at(-1)!
  const { first, places } = last.path
  fit.measure(extentOf(track, { from: first, to: first + places.length }))
  if (fit.keys.length === 0) return []
  const { points } = fit.keys.at(-1)!
  return [
    {
      ...describe([{ frame: track.firstFrame, points }], track.firstFrame, last.frame),
      sure: RESTING_SURE,
      why: `A thin line, ${widthWords(points)}, from outside the picture. The camera rests and so does the line: nothing tells whether it belongs to the set.`,
    },
  ]
}

function describe(keys: ThinLine['keys'], firstFrame: Frame, lastFrame: Frame) {
  const curve = createPathCurve(keys[0]!.points)
  const { x, y } = pathPointAt(curve, curve.lengthPx / 2)
  // A file holds only so many; between them the line is led on anyhow.
  const step = Math.ceil(keys.length / MAX_KEYS)
  return { kind: 'line' as const, x, y, firstFrame, lastFrame, keys: keys.filter((_, i) => i % step === 0) }
}

const widthWords = (points: readonly PathPoint[]): string =>
  `${Math.round(medianOf(points.map((point) => point.widthPx)))} px wide`

function lineOf(track: Track, { keys }: LineFit, picture: Size): ThinLine | null {
  if (!aloneRows(track) || keys.length === 0) return null
  const comesIn = keys[0]!.points.some(
    (point) => point.x < 0 || point.y < 0 || point.x > picture.width || point.y > picture.height,
  )
  return {
    ...describe(keys, keys[0]!.frame, keys.at(-1)!.frame),
    sure:
      Math.round(100 * Math.min(0.95, 0.5 + (comesIn ? 0.25 : 0) + 0.5 * (shareAlone(track) - MIN_SHARE))) /
      100,
    why: `${widthWords(keys.flatMap(({ points }) => points))}, and does not go where the picture beside it goes${comesIn ? '; comes from outside the picture' : ''}.`,
  }
}
