/**
 * Marks that travel: patterns that keep their shape, let the scene shine through, and go their own way over it, straight from place to place; and
 * those that stay while the scene goes by behind them.
 *
 * Frame by frame, what other frames do not show at the same place of the scene is a stranger. Patterns of strangers are followed; what keeps its
 * shape over many frames, and goes straight or rests, is a mark.
 */
import { apply, compose, IDENTITY, invert, translationBy, type Matrix3 } from '../../geometry/transform'
import { createPlane, type Plane } from '../../image/raster'
import { medianOf } from '../../image/median'
import { growRect, type Rect } from '../../image/rect'
import type { Frame } from '../../time'
import { clustersOf, extentOf } from '../../image/clusters'
import type { Find } from '../finds'
import type { Way } from '../movesIndependently'
import type { Levels } from '../shift'
import { CELL_PX } from '../quarter'
import { Chain, type ChainPlace } from './chain'
import { courseOf, type Course } from './course'
import { sceneLayers } from './sceneLayers'
import { energyOf, strangersOf, type OtherView } from './strangers'

type MarkFind = Extract<Find, { kind: 'mark' }>
type MarkKey = NonNullable<MarkFind['keys']>[number]

/** Its middle is that on its first key; a mark that stays where it is has but one. */
export type TravellingMark = Omit<MarkFind, 'id' | 'crop'> & { readonly keys: MarkKey[] }

export interface TravellingDetector {
  /** The next frame. @param shift  How the picture has gone since the last one, cells; null after a cut. */
  add(frame: Frame, levels: Levels, shift: Way | null): void
  finish(): TravellingMark[]
}

/** Another frame is asked when the picture has gone so far, cells, or after so many frames; never sooner than that. */
const FAR_CELLS = 10
const OTHER_FRAMES = { min: 3, max: 12 } as const
/** Frames that are kept to either side: at the ends of a clip both others lie on one side. */
const KEPT = 2 * OTHER_FRAMES.max

/** Strangers that are there on so many frames in a row, at the same place, may be a mark that rests; on average they differ by so many stops. */
const RESTING_FRAMES = 5
const STRANGE_STOPS = 0.05
/** Strangers no further apart belong together, cells; so many make a pattern, so wide and high. */
const JOIN_CELLS = 6
const MIN_STRANGERS = 24
const MIN_SIDE = 4
const LARGEST_SHARE = 0.15
/** Around a pattern, cells: what is fainter of it, and what only comes to be seen. */
const AROUND = 7
/** So many are followed at a time. */
const MOST_CHAINS = 8
/** One that was not seen for so many frames is gone. */
const LOST_FRAMES = 24
/** A mark that came to rest is followed back over so many frames. */
const BACK_FRAMES = 24

interface Seen {
  readonly frame: Frame
  readonly levels: Levels
  /** From the last frame's places to this one's, for the largest layer. */
  readonly fromLast: Matrix3
  /** Layers of the scene, from its places to those of other frames. */
  readonly layersTo: WeakMap<Seen, Matrix3[]>
}

/** A frame that was looked at. */
interface Past extends Pick<Seen, 'frame' | 'fromLast'> {
  readonly off: Plane
}

export function detectTravelling(): TravellingDetector {
  let kept: Seen[] = []
  /** Of those kept, the next one to be looked at. */
  let next = 0
  let live: Chain[] = []
  let past: Past[] = []
  const marks: TravellingMark[] = []
  let picture: Plane | null = null
  let first: Frame | null = null
  let last: Frame = 0

  const end = (chains: readonly Chain[]) => {
    for (const mark of marksOf(chains, picture!)) marks.push(mark)
  }
  const lookAt = (index: number) => {
    const others = othersOf(kept, index)
    if (!others) return
    const { frame, levels, fromLast } = kept[index]!
    const plane = levels[0]!
    const strangers = strangersOf(plane, others)
    for (const chain of live) chain.goOn(frame, strangers, plane, fromLast)
    past.push({ frame, off: strangers.off, fromLast })
    if (past.length > BACK_FRAMES) past.shift()
    if (past.length >= RESTING_FRAMES) lookForResting(frame)
    const gone = live.filter((chain) => chain.last.frame < frame - LOST_FRAMES)
    live = live.filter((chain) => !gone.includes(chain))
    end(gone)
  }
  const lookForResting = (frame: Frame) => {
    const resting = meanOf(past.slice(-RESTING_FRAMES))
    const strange = { off: resting, energy: energyOf(resting) }
    for (const window of patternsOf(resting)) {
      if (live.some((chain) => chain.covers(window))) continue
      const isUnseen = (chain: Chain) => chain.last.frame <= frame - RESTING_FRAMES
      if (live.some((chain) => isUnseen(chain) && chain.comesBack(frame, strange, window))) continue
      if (live.length >= MOST_CHAINS) continue
      const chain = new Chain(frame, window, resting, RESTING_FRAMES)
      followBack(chain, past)
      live.push(chain)
    }
  }
  const lookAtRest = () => {
    for (; next < kept.length; next++) lookAt(next)
    end(live)
    live = []
    kept = []
    past = []
    next = 0
  }

  return {
    add(frame, levels, shift) {
      picture = levels[0]!
      first ??= frame
      last = frame
      if (!shift) lookAtRest()
      const before = kept.at(-1)
      const expected = shift ? translationBy(shift.x, shift.y) : IDENTITY
      const fromLast =
        before && shift ? layersBetween(before.levels, levels, expected, REACH.next)[0]! : IDENTITY
      kept.push({ frame, levels, fromLast, layersTo: new WeakMap() })
      if (kept.length - next > KEPT) lookAt(next++)
      if (next > KEPT) {
        kept.shift()
        next--
      }
    },
    finish() {
      lookAtRest()
      return marks.map((mark) => ({ ...mark, keys: withEnds(mark.keys, first, last) }))
    },
  }
}

/** So near the ends of the clip, frames are not all looked at: a mark goes on there as it went. */
const AT_END = 3

function withEnds(keys: readonly MarkKey[], first: Frame | null, last: Frame): MarkKey[] {
  if (keys.length < 2 || first === null) return [...keys]
  const onTo = (frame: Frame, from: MarkKey, beside: MarkKey): MarkKey[] => {
    if (frame === from.frame || Math.abs(frame - from.frame) > AT_END) return [from]
    const share = (frame - beside.frame) / (from.frame - beside.frame)
    return [{ frame, x: beside.x + share * (from.x - beside.x), y: beside.y + share * (from.y - beside.y) }]
  }
  return [...onTo(first, keys[0]!, keys[1]!), ...keys.slice(1, -1), ...onTo(last, keys.at(-1)!, keys.at(-2)!)]
}

/** What is there on all of the frames, at the same place: the mean. */
function meanOf(frames: readonly Past[]): Plane {
  const { width, height } = frames[0]!.off
  const mean = createPlane(width, height)
  for (const { off } of frames)
    for (let i = 0; i < mean.data.length; i++) mean.data[i]! += off.data[i]! / frames.length
  return mean
}

/** To where it came from. The last of the frames is that on which it was found. */
function followBack(chain: Chain, frames: readonly Past[]): void {
  for (let i = frames.length - 2; i >= 0; i--) {
    const { frame, off } = frames[i]!
    const back = invert(frames[i + 1]!.fromLast)
    if (!back || !chain.goOn(frame, { off, energy: energyOf(off), ground: null }, null, back)) break
  }
  chain.turnRound()
}

/** Cells of the level that layers are told on; blocks are looked for so far from where the largest layer has gone since the last frame, and from frame to frame. */
const REACH = { next: 2, other: 4 } as const
/** Layers are told on the smallest level that is as wide, cells. */
const MIN_WIDTH = 100

function layersBetween(a: Levels, b: Levels, expected: Matrix3, reach: number): Matrix3[] {
  let level = 0
  while (level + 1 < a.length && a[level + 1]!.width >= MIN_WIDTH) level++
  const scale = 1 << level
  return sceneLayers(a[level]!, b[level]!, scaled(expected, 1 / scale), reach).map((layer) =>
    scaled(layer, scale),
  )
}

/** The same motion of a picture that is so many times as large. */
const scaled = (m: Matrix3, by: number): Matrix3 => [
  m[0],
  m[1],
  m[2] * by,
  m[3],
  m[4],
  m[5] * by,
  m[6] / by,
  m[7] / by,
  m[8],
]

/** Frames before and after, far enough away from it and from each other; as many on one side only at an end. Null where there are not enough. */
function othersOf(kept: readonly Seen[], index: number): OtherView[] | null {
  const others = [...furtherOn(kept, index, -1), ...furtherOn(kept, index, 1)]
  if (others.length < 2) return null
  const here = kept[index]!
  return others.map(({ seen, toOther }) => ({
    plane: seen.levels[0]!,
    layers: layersTo(here, seen, toOther),
  }))
}

/** Told once for every two frames. */
function layersTo(here: Seen, there: Seen, expected: Matrix3): Matrix3[] {
  const back = there.layersTo.get(here)
  if (back) return back.map((layer) => invert(layer) ?? expected)
  const layers = layersBetween(here.levels, there.levels, expected, REACH.other)
  here.layersTo.set(there, layers)
  return layers
}

interface Further {
  readonly seen: Seen
  /** Where the largest layer has gone, frame by frame. */
  readonly toOther: Matrix3
}

/** Up to two frames on one side, each far enough from the one before. */
function furtherOn(kept: readonly Seen[], index: number, side: -1 | 1): Further[] {
  const { width, height } = kept[index]!.levels[0]!
  const found: Further[] = []
  let toOther: Matrix3 = IDENTITY
  let [since, last] = [0, { x: width / 2, y: height / 2 }]
  for (let at = index + side; at >= 0 && at < kept.length && found.length < 2; at += side) {
    const step = side > 0 ? kept[at]!.fromLast : invert(kept[at + 1]!.fromLast)
    if (!step) break
    toOther = compose(toOther, step)
    since++
    const now = apply(toOther, width / 2, height / 2)
    const isFar = Math.max(Math.abs(now.x - last.x), Math.abs(now.y - last.y)) >= FAR_CELLS
    // Near an end of the clip, the last frame there is has to do.
    const isEnd = at + side < 0 || at + side >= kept.length
    if (since < OTHER_FRAMES.min || (!isFar && !isEnd && since < OTHER_FRAMES.max)) continue
    found.push({ seen: kept[at]!, toOther })
    ;[since, last] = [0, now]
  }
  return found
}

/** Patterns of strangers, the largest first. */
function patternsOf(off: Plane): Rect[] {
  const isStrange = Uint8Array.from(off.data, (value) => (Math.abs(value) > STRANGE_STOPS ? 1 : 0))
  return clustersOf(isStrange, off.width, off.height, JOIN_CELLS)
    .filter((cluster) => cluster.length >= MIN_STRANGERS)
    .sort((a, b) => b.length - a.length)
    .flatMap((cluster) => {
      const extent = extentOf(cluster, off.width)
      const { width, height } = extent
      if (width < MIN_SIDE || height < MIN_SIDE) return []
      if (width * height > LARGEST_SHARE * off.width * off.height) return []
      return growRect(extent, AROUND)
    })
}

/** Seen on so many frames, on so large a share of those between its first and last, and so much alike on average. */
const MIN_FRAMES = 8
const MIN_SEEN = 0.6
const MIN_ALIKE = 0.65
/** It goes so far over the frame, cells, or stays: what only sways does neither. */
const MIN_TRAVEL = 5
/** Straight within this is straight, cells; so many of its places lie on its course, which bends once in so many frames at most. */
const STRAIGHT = 1
const MIN_AGREEING = 0.75
const FRAMES_A_BEND = 3.5
/** It was seen on its way on so many frames, and so large a share of them: what is seen here, then there, may be two that look alike. */
const MIN_ON_THE_WAY = { frames: 4, share: 0.65 } as const
/** More opaque, or of whose way less is its own rather than the scene's, it is a thing; the more so where it never rests. */
const LIMITS = {
  resting: { opacity: 0.9, ownShare: 0.15 },
  neverResting: { opacity: 0.5, ownShare: 0.7 },
} as const
/** What never goes further than this stays, cells: so long, while the scene goes so far; so large, and told both ways. */
const RESTS_WITHIN = 1
const STAYING = { frames: 12, sceneTravel: 12, cells: 40, lopsided: 6 } as const
/** Slower than this, cells a frame, for so many frames is rest. */
const REST_PACE = 0.1
const REST_FRAMES = 4
/** Things that lie no further apart and go together are parts of one mark, cells; they stay so far apart, within as much. */
const TOGETHER = { apart: 20, off: 0.7 } as const

interface Candidate {
  readonly chain: Chain
  readonly course: Course<ChainPlace>
}

function marksOf(chains: readonly Chain[], picture: Plane): TravellingMark[] {
  let open = chains.flatMap(candidateOf).sort((a, b) => b.course.agreeing - a.course.agreeing)
  const marks: TravellingMark[] = []
  while (open.length > 0) {
    const [main, ...rest] = open as [Candidate, ...Candidate[]]
    const parts = rest.filter(({ chain }) => goTogether(main.chain, chain))
    open = rest.filter((one) => !parts.includes(one))
    const mark = described(
      main,
      parts.map(({ chain }) => chain),
      picture,
    )
    if (mark) marks.push(mark)
  }
  return marks
}

function candidateOf(chain: Chain): Candidate[] {
  const { places } = chain
  const [first, last] = [places[0]!, chain.last]
  if (places.length < MIN_FRAMES || places.length < MIN_SEEN * (last.frame - first.frame + 1)) return []
  if (alikeOf(places) < MIN_ALIKE) return []
  const course = courseOf(places, STRAIGHT)
  const { bends, agreeing } = course
  if (agreeing < MIN_AGREEING * places.length || bends.length - 2 > agreeing / FRAMES_A_BEND) return []
  const travel = travelOf(course)
  const { isResting, onTheWay, wayFrames } = waysOf(course)
  const limits = isResting ? LIMITS.resting : LIMITS.neverResting
  if (travel < RESTS_WITHIN) return staysOn(chain) ? [{ chain, course }] : []
  if (travel < MIN_TRAVEL || onTheWay < MIN_ON_THE_WAY.frames) return []
  if (onTheWay < MIN_ON_THE_WAY.share * wayFrames) return []
  return chain.opacity > limits.opacity || chain.ownShare < limits.ownShare ? [] : [{ chain, course }]
}

/** Whether it is a mark that never leaves its place, while the scene goes by behind it. */
function staysOn(chain: Chain): boolean {
  return (
    chain.places.length >= STAYING.frames &&
    chain.sceneTravel >= STAYING.sceneTravel &&
    chain.cells >= STAYING.cells &&
    chain.lopsided <= STAYING.lopsided &&
    chain.opacity <= LIMITS.resting.opacity
  )
}

/** Whether it ever rests, and on how many of the frames that it was on its way it was seen there. */
function waysOf({ bends, between }: Course<ChainPlace>) {
  let [isResting, onTheWay, wayFrames] = [false, 0, 0]
  for (const [i, to] of bends.slice(1).entries()) {
    const from = bends[i]!
    const way = Math.max(Math.abs(to.x - from.x), Math.abs(to.y - from.y))
    const frames = to.frame - from.frame
    if (way > REST_PACE * frames) {
      onTheWay += between[i]!
      wayFrames += frames - 1
    } else if (frames >= REST_FRAMES) isResting = true
  }
  return { isResting, onTheWay, wayFrames }
}

/** How far it goes over the frame in all, along either axis, cells. */
const travelOf = ({ bends }: Course<ChainPlace>): number =>
  Math.max(spanOf(bends.map(({ x }) => x)), spanOf(bends.map(({ y }) => y)))

const spanOf = (values: readonly number[]): number => Math.max(...values) - Math.min(...values)

const alikeOf = (places: readonly ChainPlace[]): number =>
  places.reduce((sum, { alike }) => sum + alike, 0) / places.length

/** Whether two are seen on the same frames, near each other, always as far apart. */
function goTogether(a: Chain, b: Chain): boolean {
  const apart = wayBetween(a, b)
  if (!apart) return false
  const isFar =
    apart.x > a.window.width + TOGETHER.apart ||
    apart.y > a.window.height + TOGETHER.apart ||
    apart.x < -b.window.width - TOGETHER.apart ||
    apart.y < -b.window.height - TOGETHER.apart
  return !isFar
}

/** By how much the second lies off the first, where that is always the same; null where it is not, or they are hardly seen together. */
function wayBetween(a: Chain, b: Chain): { readonly x: number; readonly y: number } | null {
  const shared = a.places.flatMap((place) => {
    const other = b.places.find(({ frame }) => frame === place.frame)
    return other ? [{ x: other.x - place.x, y: other.y - place.y }] : []
  })
  if (shared.length < MIN_FRAMES / 2) return null
  const middle = { x: medianOf(shared.map(({ x }) => x)), y: medianOf(shared.map(({ y }) => y)) }
  const together = shared.filter(
    ({ x, y }) => Math.max(Math.abs(x - middle.x), Math.abs(y - middle.y)) < TOGETHER.off,
  )
  return together.length > 0.6 * shared.length ? middle : null
}

function described(
  { chain, course }: Candidate,
  parts: readonly Chain[],
  picture: Plane,
): TravellingMark | null {
  // From the corner of its window; parts that lie over it have seen the same.
  const own = chain.extent
  let { col: left, row: top } = own
  let [right, bottom] = [left + own.width, top + own.height]
  for (const part of parts) {
    const apart = wayBetween(chain, part)!
    const { col, row, width, height } = part.extent
    const [x, y] = [apart.x + col + width / 2 - own.col, apart.y + row + height / 2 - own.row]
    if (x >= 0 && x <= own.width && y >= 0 && y <= own.height) continue
    left = Math.min(left, col + apart.x)
    top = Math.min(top, row + apart.y)
    right = Math.max(right, col + width + apart.x)
    bottom = Math.max(bottom, row + height + apart.y)
  }
  const [width, height] = [right - left, bottom - top]
  if (width * height > LARGEST_SHARE * picture.width * picture.height) return null
  const stays = travelOf(course) < RESTS_WITHIN
  const keys = (stays ? course.bends.slice(0, 1) : course.bends).map(({ frame, x, y }) => ({
    frame,
    x: (x + left + width / 2) * CELL_PX,
    y: (y + top + height / 2) * CELL_PX,
  }))
  const { opacity, places } = chain
  const sure = 0.3 + 0.7 * alikeOf(places) - (waysOf(course).isResting ? 0 : NEVER_RESTS_LESS)
  return {
    kind: 'mark',
    x: keys[0]!.x,
    y: keys[0]!.y,
    widthPx: width * CELL_PX,
    heightPx: height * CELL_PX,
    opacity,
    firstFrame: places[0]!.frame,
    lastFrame: chain.last.frame,
    keys,
    sure: Math.round(100 * Math.min(MOST_SURE, sure)) / 100,
    why: `${whatItDoes(keys.length - 1)}; hides about ${Math.round(100 * opacity)} % of it.`,
  }
}

const MOST_SURE = 0.95
/** What never rests may be a thing after all. */
const NEVER_RESTS_LESS = 0.2

function whatItDoes(legs: number): string {
  if (legs === 0) return 'Stays where it is while the picture goes by behind it'
  return `Keeps its shape and goes its own way over the picture, in ${legs} straight ${legs === 1 ? 'leg' : 'legs'}`
}
