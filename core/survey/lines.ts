/**
 * Thin lines: wires, threads, rods.
 *
 * Joints, edges and bars are thin lines too, but they go where the picture beside them goes. So a ridge is followed over the clip, and
 * the rows in which it goes alone are counted; a long run of them is a candidate. Source: common practice.
 */
import { createPlane, type Plane } from '../image/raster'
import type { Frame } from '../time'
import { offBetween, rowsAlone, viewRidges, type RidgeView, type Way } from './movesIndependently'
import { ridgePaths, type RidgePath } from './ridges'

/** A path in the next picture belongs to one in the last if it is as near, cells; or as near to where the picture would have taken it. */
const NEAR_CELLS = 10
/** A line that is not seen in more looks than this, one after the other, is gone. */
const MAX_MISSES = 3
/** So many looks back a line is compared with where it was: the slow ones want a while. */
const BACK = [2, 4, 6] as const
const KEPT = Math.max(...BACK)

interface Sighting {
  readonly frame: Frame
  readonly path: RidgePath
}

/** A ridge over time. */
export interface Track {
  /** Whether it runs across the picture: its paths then have columns for rows. */
  readonly isAcross: boolean
  /** The latest ones, as far back as they are compared with; never none. */
  sightings: readonly Sighting[]
  readonly firstFrame: Frame
  /** How often it was seen, and from which row to which, the last not itself, it ever was. */
  seen: number
  from: number
  to: number
  /** How often each row was seen to go alone, and how often it was asked. */
  readonly alone: Uint16Array
  comparisons: number
  /** Looks from the first to the last that showed it, and those since then. */
  looks: number
  misses: number
}

interface Look {
  readonly frame: Frame
  /** As it is, and with rows and columns exchanged. */
  readonly views: readonly [RidgeView, RidgeView]
  /** Where the picture as a whole is, cells. */
  readonly x: number
  readonly y: number
}

interface LineFollower {
  /** Looks at the next of some frames. @param at  Where the picture as a whole is, cells. */
  look(
    frame: Frame,
    plane: Plane,
    at: Way,
  ): { readonly shown: readonly Track[]; readonly ended: readonly Track[] }
  /** Ends all tracks, as at a cut. */
  end(): Track[]
}

export function followLines(): LineFollower {
  let looks: Look[] = []
  let open: Track[] = []
  return {
    look(frame, plane, { x, y }) {
      const look: Look = { frame, views: [viewRidges(plane), viewRidges(transposed(plane))], x, y }
      for (const isAcross of [false, true]) open = followed(open, look, looks, isAcross)
      looks = [...looks.slice(1 - KEPT), look]
      const ended = open.filter(({ misses }) => misses > MAX_MISSES)
      open = open.filter(({ misses }) => misses <= MAX_MISSES)
      return { shown: open.filter(({ misses }) => misses === 0), ended }
    },
    end() {
      const ended = open
      ;[looks, open] = [[], []]
      return ended
    },
  }
}

/** All tracks, those of one direction with what the look shows of them, and new ones for what belongs to none. */
function followed(tracks: Track[], look: Look, before: readonly Look[], isAcross: boolean): Track[] {
  const { plane } = look.views[isAcross ? 1 : 0]
  const paths = new Set(ridgePaths(plane))
  const last = before.at(-1)
  for (const track of tracks) {
    if (track.isAcross !== isAcross) continue
    track.misses++
    const path = last && nearestOf(paths, track.sightings.at(-1)!.path, wayBetween(last, look, isAcross).x)
    if (!path) continue
    paths.delete(path)
    compare(track, path, look, before)
    track.sightings = [...track.sightings.slice(-KEPT), { frame: look.frame, path }]
    track.seen++
    track.from = Math.min(track.from, path.first)
    track.to = Math.max(track.to, path.first + path.places.length)
    track.looks += track.misses
    track.misses = 0
  }
  const begun = Array.from(paths, (path): Track => ({
    isAcross,
    sightings: [{ frame: look.frame, path }],
    firstFrame: look.frame,
    seen: 1,
    from: path.first,
    to: path.first + path.places.length,
    alone: new Uint16Array(plane.height),
    comparisons: 0,
    looks: 1,
    misses: 0,
  })) // prettier-ignore
  return [...tracks, ...begun]
}

/** The path that goes on from another; undefined where none does. @param went  How far to the right the picture has gone. */
function nearestOf(paths: ReadonlySet<RidgePath>, last: RidgePath, went: number): RidgePath | undefined {
  let nearest: RidgePath | undefined
  let min = NEAR_CELLS
  for (const path of paths) {
    if (path.isDark !== last.isDark) continue
    const right = offBetween(last, path)
    const off = Math.min(Math.abs(right), Math.abs(right - went))
    if (off < min) [min, nearest] = [off, path]
  }
  return nearest
}

function compare(track: Track, path: RidgePath, look: Look, before: readonly Look[]): void {
  const side = track.isAcross ? 1 : 0
  for (const back of BACK) {
    const then = before.at(-back)
    const sighting = then && track.sightings.find(({ frame }) => frame === then.frame)
    if (!sighting) continue
    track.comparisons++
    const rows = rowsAlone(
      sighting.path,
      path,
      then.views[side],
      look.views[side],
      wayBetween(then, look, track.isAcross),
    )
    rows?.forEach((isAlone, k) => {
      track.alone[sighting.path.first + k]! += isAlone
    })
  }
}

const wayBetween = (a: Look, b: Look, isAcross: boolean): Way =>
  isAcross ? { x: b.y - a.y, y: b.x - a.x } : { x: b.x - a.x, y: b.y - a.y }

function transposed({ width, height, data }: Plane): Plane {
  const out = createPlane(height, width)
  for (let row = 0; row < height; row++)
    for (let col = 0; col < width; col++) out.data[col * height + row] = data[row * width + col]!
  return out
}
