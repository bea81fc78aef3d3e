/** What a line's ends lie on: a point of the subject beyond each end is followed, and tells where the end must be. */
import type { PathPoint } from '../../geometry/pathCurve'
import { intersectRects, type Rect, type Size } from '../../image/rect'
import { cropSamples, type Samples } from '../../image/samples'
import { PointTracker } from '../pointTracker'
import { DEFAULT_TRACK_SETTINGS } from '../settings'
import { openWindow, type FrameWindow } from '../window'
import { isInside, type Place } from './clingCurves'

export class EndSubjects {
  readonly #trackers: [PointTracker | null, PointTracker | null] = [null, null]
  readonly #offsets: [Place, Place] = [
    { x: 0, y: 0 },
    { x: 0, y: 0 },
  ]
  readonly #places: [Place | null, Place | null] = [null, null]

  /** @param isWanted  For each end, whether there is a subject. */
  begin(
    points: readonly PathPoint[],
    isWanted: (end: 0 | 1) => boolean,
    samples: Samples,
    rect: Rect,
    picture: Size,
  ): void {
    for (const end of [0, 1] as const) {
      if (!isWanted(end)) continue
      const [at, inner] = end === 0 ? [points[0]!, points[1]!] : [points.at(-1)!, points.at(-2)!]
      const length = Math.sqrt((at.x - inner.x) * (at.x - inner.x) + (at.y - inner.y) * (at.y - inner.y)) || 1
      const radius = SUBJECT_SETTINGS.patchPx / 2
      const beyond = {
        x: at.x + ((at.x - inner.x) / length) * radius * 0.8,
        y: at.y + ((at.y - inner.y) / length) * radius * 0.8,
      }
      const tracker = new PointTracker(beyond.x, beyond.y, SUBJECT_SETTINGS)
      if (!isInside(beyond, picture) || !tracker.begin(subjectWindows(tracker, samples, rect, picture)))
        continue
      this.#trackers[end] = tracker
      this.#offsets[end] = { x: at.x - beyond.x, y: at.y - beyond.y }
    }
  }

  /** Looks for them on the next frame, or for one alone. */
  follow(samples: Samples, rect: Rect, picture: Size, only: 0 | 1 | null = null): void {
    for (const end of only === null ? ([0, 1] as const) : [only]) {
      const tracker = this.#trackers[end]
      this.#places[end] = null
      if (!tracker) continue
      const seen = tracker.advance(subjectWindows(tracker, samples, rect, picture))
      if (seen.state === 'held' && seen.sure > 0.5)
        this.#places[end] = { x: seen.values[0]!, y: seen.values[1]! }
      if (seen.state === 'lost' || seen.state === 'left-picture') this.#trackers[end] = null
    }
  }

  /** What was followed at an end was no subject of the line. */
  drop(end: 0 | 1): void {
    this.#trackers[end] = null
    this.#places[end] = null
  }

  /** Where an end must be on this frame; null where nothing tells. */
  endAt(end: 0 | 1): Place | null {
    const [place, offset] = [this.#places[end], this.#offsets[end]]
    return place && { x: place.x + offset.x, y: place.y + offset.y }
  }
}

const SUBJECT_SETTINGS = {
  ...DEFAULT_TRACK_SETTINGS,
  patchPx: 25,
  searchPx: 16,
  reference: 'refreshed' as const,
  bridgeFrames: 4,
}

/** What a tracker at an end wants to see, as far as it lies inside what has been read. */
function subjectWindows(tracker: PointTracker, samples: Samples, rect: Rect, picture: Size): FrameWindow[] {
  return tracker.windows(picture).flatMap((wanted) => {
    const inside = intersectRects(wanted, rect)
    if (!inside || inside.width < 32 || inside.height < 32) return []
    const cropped = cropSamples(samples, {
      ...inside,
      col: inside.col - rect.col,
      row: inside.row - rect.row,
    })
    return [openWindow(cropped, inside, picture, SUBJECT_SETTINGS, tracker.levels)]
  })
}
