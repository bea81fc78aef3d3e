/** Snags: frames and places where a mend probably shows, with the reason in words. */
import { flickerBetween } from '../measure/areaMeasures'
import { LINE_SHOWS_FROM } from '../measure/lineResidue'
import type { Size } from '../image/rect'
import type { Frame, FrameRange } from '../time'
import type { MendMeasure } from '../measure/mendMeasure'
import type { OverTime } from '../measure/overTime'
import { placeArea } from '../plan/placedArea'
import { isStroke, type Area } from '../document/areas'
import type { Mend } from '../document/mend'
import { hasRowAt, trackSureAt, UNSURE_BELOW, type Tracks } from '../document/tracks'

export type SnagReason =
  | 'track-lost'
  | 'track-unsure'
  | 'area-jump'
  | 'area-leaves'
  | 'line-shows'
  | 'no-start-key'
  | 'source-outside'
  | 'source-covered'
  | 'rim-shows'
  | 'flicker'
  | 'grain-smooth'
  | 'grain-strong'
  | 'repeats'
  | 'never-seen'
  | 'registration-unsure'
  | 'ghost'
  | 'mark-edge'
  | 'mark-ghost'
  | 'mark-beside'
  | 'clipped'
  | 'shade-off'
  | 'shade-cast'
  | 'shade-contrast'
  | 'differs'
  | 'soft'

export interface Snag {
  readonly mendId: string
  readonly frame: Frame
  readonly reason: SnagReason
  readonly x: number
  readonly y: number
  readonly words: string
  /** How much it shows: 1 where it is just worth a look, more above. */
  readonly weight: number
}

const WORDS: Readonly<Record<SnagReason, string>> = {
  'track-lost': 'The track has nothing here: it was lost before. Set it right and track on.',
  'track-unsure': 'The track is not sure here.',
  'area-jump': 'The area jumps from the frame before.',
  'area-leaves': 'The area leaves the picture here.',
  'line-shows': 'The wire still shows here.',
  'no-start-key': 'The area has no key at the start of its span.',
  'source-outside': 'Some of the source lies outside the picture here.',
  'source-covered': 'Some of the source lies inside another mend or a holdout here.',
  'rim-shows': 'The rim of the area probably shows here.',
  flicker: 'The area changes more from the frame before than what is around it.',
  'grain-smooth': 'The area is smoother than what is around it.',
  'grain-strong': 'The area is grainier than what is around it.',
  repeats: 'Something recognisable is copied from close by.',
  'never-seen': 'No other frame shows some of the area here: it is made up from nearby.',
  'registration-unsure': 'The other frames do not lie well over this one here.',
  ghost: 'The frames do not agree on what is behind here: something may still pass through.',
  'mark-edge': 'The mark’s edges still show here: try its Opacity, or work it out again.',
  'mark-ghost': 'A ghost of the mark is left here: try its Opacity, or work it out again.',
  'mark-beside': 'The mark lies beside its picture here: place it on this frame.',
  clipped: 'The plate is at the end of its range under some of the mark: that is filled, not undone.',
  'shade-off':
    'The lifted ground is not as bright as in the light: try Depth, or draw the shadow’s edge anew.',
  'shade-cast': 'The lifted ground has a colour that it has not in the light: try Red, Green and Blue.',
  'shade-contrast': 'The texture of the lifted ground has not the contrast that it has in the light.',
  differs: 'The picture differs here from what other frames show at the same place.',
  soft: 'The area is softer than the same place is on other frames.',
}

const JUMP_PX = 3 // beyond what the course of the frames around it explains
const JUMP_SHARE = 1.5 // of that course's own step

/**
 * The snags of a mend that its data alone tell: no pixels are read.
 * Cost: one placement a frame of the span.
 */
export function findSnags(mend: Mend, tracks: Tracks, picture: Size): Snag[] {
  if (!mend.isOn) return []
  const snags: Snag[] = []
  const add = (frame: Frame, reason: SnagReason, at: { x: number; y: number }) =>
    snags.push({ mendId: mend.id, frame, reason, ...at, words: WORDS[reason], weight: 1 })
  for (const area of mend.areas) {
    if (area.shape === 'matte') continue
    const track = area.follow ? tracks.get(area.follow.trackId) : undefined
    // At rest it is where it was drawn, on every frame.
    if (!track && area.keys.length === 1) continue
    const { firstFrame, lastFrame } = framesOf(mend, area)
    const middles = Array.from(
      { length: lastFrame - firstFrame + 1 },
      (_, i) => placeArea(area, tracks, firstFrame + i).middle,
    )
    if (!track && area.keys.length > 1 && area.keys[0]!.frame > firstFrame)
      add(firstFrame, 'no-start-key', middles[0]!)
    let wasInside: boolean | null = null
    for (let frame = firstFrame; frame <= lastFrame; frame++) {
      const i = frame - firstFrame
      const at = middles[i]!
      if (track) {
        if (!hasRowAt(track, frame)) add(frame, 'track-lost', at)
        else if (trackSureAt(track, frame) < UNSURE_BELOW) add(frame, 'track-unsure', at)
      }
      if (i >= 2 && isJump(middles, i)) add(frame, 'area-jump', at)
      const isInside = at.x >= 0 && at.y >= 0 && at.x <= picture.width && at.y <= picture.height
      if (wasInside === true && !isInside && area.role === 'cover') add(frame, 'area-leaves', at)
      wasInside = isInside
    }
  }
  return snags
}

/** The frames on which an area of a mend is there: a stroke has some of its own. */
const framesOf = ({ span }: Mend, area: Area): FrameRange =>
  isStroke(area)
    ? {
        firstFrame: Math.max(span.firstFrame, area.stroke.span.firstFrame),
        lastFrame: Math.min(span.lastFrame, area.stroke.span.lastFrame),
      }
    : span

// From where on eyes probably notice. Set on the demo film: mended with the default settings it stays below all of them.
const FAULT_SHARE = 0.02 // of the area
// Along a path the rim is met by everything that crosses it; a closed area may end at an edge of the picture by chance.
const RIM_SHOWS_FROM = { path: 3, closed: 3.7 }
// A path that swings over its background changes as much as that does.
const FLICKER_FROM = { path: 5.5, closed: 2.5, inside: 0.008 }
const SMOOTH_BELOW = 0.65
const STRONG_FROM = 1.75
const REPEATS_FROM = 0.8
const UNSEEN_SHARE = 0.02 // of the area
// Slivers, and the width of a thread, are filled from nearby well enough: common practice, no source.
const UNSEEN_WIDE_PX = { path: 16, closed: 8 }
const UNSURE_LAY_BELOW = 0.45
export const GHOST_SHARE = 0.02
// Of a mark: so much of it left, or so far beside, by so many deviations.
export const MARK_LEFT = 0.1
// And so much of a difference, in the plate's scale: two code values of 8 bits.
const MARK_SHOWS = 0.008
const MARK_BESIDE_PX = 0.3
const MARK_SURE = 6
const CLIPPED_SHARE = 0.05
// Of a shadow, against other frames and across its own edge, stops: different ground differs by itself.
export const SHADE_OFF = { frames: 0.12, edge: 0.35, nothing: Infinity }
const SHADE_CAST = { frames: 0.06, edge: 0.15, nothing: Infinity }
const SHADE_CONTRAST = { min: 0.8, max: 1.25 }

/** The snags of a frame that its finished pixels tell. @param before  Of the frame before, where it is known. */
export function snagsOfMeasures(
  measures: readonly MendMeasure[],
  frame: Frame,
  before: readonly MendMeasure[] = [],
): Snag[] {
  const snags: Snag[] = []
  const seen = new Map<string, number>()
  for (const measure of measures) {
    const { mendId, x, y, line, rimStep, grainRatio, faults, repeated, cells } = measure
    const add: Add = (reason, weight, at = { x, y }) =>
      snags.push({ mendId, frame, reason, x: at.x, y: at.y, words: WORDS[reason], weight })
    // Areas of one mend come in the same order on every frame.
    const place = seen.get(mendId) ?? 0
    seen.set(mendId, place + 1)
    if (line !== null && line.ratio >= LINE_SHOWS_FROM) add('line-shows', line.ratio / LINE_SHOWS_FROM, line)
    if (faults && faults.outsidePicture > FAULT_SHARE) add('source-outside', 1)
    if (faults && faults.insideOthers > FAULT_SHARE) add('source-covered', 1)
    const kind = line === null ? 'closed' : 'path'
    if (rimStep !== null && rimStep >= RIM_SHOWS_FROM[kind]) add('rim-shows', rimStep / RIM_SHOWS_FROM[kind])
    if (grainRatio !== null && grainRatio < SMOOTH_BELOW)
      add('grain-smooth', SMOOTH_BELOW / Math.max(grainRatio, 0.1))
    if (grainRatio !== null && grainRatio >= STRONG_FROM) add('grain-strong', grainRatio / STRONG_FROM)
    if (repeated !== null && repeated >= REPEATS_FROM) add('repeats', repeated / REPEATS_FROM)
    const { gathered } = measure
    if (gathered && 1 - gathered.seenShare > UNSEEN_SHARE && gathered.unseenWidePx >= UNSEEN_WIDE_PX[kind])
      add('never-seen', gathered.unseenWidePx / UNSEEN_WIDE_PX[kind])
    if (gathered && gathered.frames > 0 && gathered.registrationSure < UNSURE_LAY_BELOW)
      add('registration-unsure', UNSURE_LAY_BELOW / Math.max(gathered.registrationSure, 0.1))
    if (gathered && gathered.ghostShare > GHOST_SHARE) add('ghost', gathered.ghostShare / GHOST_SHARE)
    addMarkSnags(measure, add)
    addShadeSnags(measure, add)
    const earlier = before.filter((one) => one.mendId === mendId)[place]?.cells
    const flicker = cells && earlier ? flickerBetween(earlier, cells) : null
    if (flicker && flicker.ratio >= FLICKER_FROM[kind] && flicker.inside >= FLICKER_FROM.inside)
      add('flicker', flicker.ratio / FLICKER_FROM[kind])
  }
  return snags
}

// Against other frames: so much of a colour difference, and more where the surroundings differ by themselves.
const DIFFERS_FROM = 3.5
const DIFFERS_TIMES = 2.5
const SOFT_BELOW = 0.8
/** What is beside an area all the time is nothing that was left there: so many times the usual of the mend itself. */
const BESIDE_TIMES = 2.5
/** Less counts as well where it is so much more than on the mend's other frames. */
const DIFFERS_SINGLY = { from: 2.5, times: 1.6 }

/** From which colour difference to other frames on a spot is worth a look, CIEDE2000. */
export const overTimeLimit = ({ usualE }: Pick<OverTime, 'usualE'>): number =>
  Math.max(DIFFERS_FROM, DIFFERS_TIMES * usualE)

/**
 * The snags of a mend on a frame that the frames around it tell.
 * @param usual  What differs in and beside this mend on the middle one of its frames, CIEDE2000.
 */
export function snagsOverTime(
  mendId: string,
  frame: Frame,
  overTime: OverTime,
  usual: { readonly inside: number; readonly beside: number },
): Snag[] {
  const { inside, beside, sharpness } = overTime
  const limit = overTimeLimit(overTime)
  const singly = Math.max(
    DIFFERS_SINGLY.from,
    DIFFERS_SINGLY.times * usual.inside,
    DIFFERS_TIMES * overTime.usualE,
  )
  const limits = [Math.min(limit, singly), Math.max(limit, BESIDE_TIMES * usual.beside)] as const
  const off = [inside, beside]
    .flatMap((spot, i) => (spot && spot.e >= limits[i]! ? [{ ...spot, weight: spot.e / limits[i]! }] : []))
    .sort((a, b) => b.weight - a.weight)[0]
  const snags: Snag[] = []
  if (off)
    snags.push({
      mendId,
      frame,
      reason: 'differs',
      x: off.x,
      y: off.y,
      words: WORDS.differs,
      weight: off.weight,
    })
  const at = inside ?? beside
  if (sharpness !== null && sharpness < SOFT_BELOW && at)
    snags.push({ mendId, frame, reason: 'soft', x: at.x, y: at.y, words: WORDS.soft, weight: SOFT_BELOW / Math.max(sharpness, 0.1) }) // prettier-ignore
  return snags
}

type Add = (reason: SnagReason, weight: number, at?: Point) => void

function addMarkSnags({ mark, gathered }: MendMeasure, add: Add): void {
  if (!mark) return
  const weighed = gathered?.weighed ?? null
  const shows = (share: number, sure: number) =>
    Math.abs(share) >= MARK_LEFT && Math.abs(share) * mark.change >= MARK_SHOWS && sure >= MARK_SURE
  if (shows(mark.left, mark.leftSure)) add('mark-edge', Math.abs(mark.left) / MARK_LEFT)
  // Other frames tell it better than what lies around, where they were asked.
  const [ghost, ghostSure] = weighed ? [weighed.ghost, weighed.ghostSure] : [mark.ghost, mark.ghostSure]
  if (ghost !== null && shows(ghost, ghostSure)) add('mark-ghost', Math.abs(ghost) / MARK_LEFT)
  if (mark.offPx >= MARK_BESIDE_PX && shows(mark.offPx, mark.offSure))
    add('mark-beside', mark.offPx / MARK_BESIDE_PX)
  if (mark.clippedShare >= CLIPPED_SHARE) add('clipped', mark.clippedShare / CLIPPED_SHARE)
}

function addShadeSnags({ shade }: MendMeasure, add: Add): void {
  if (!shade) return
  const { by, offStops, castStops, contrast } = shade
  if (offStops !== null && Math.abs(offStops) >= SHADE_OFF[by])
    add('shade-off', Math.abs(offStops) / SHADE_OFF[by])
  if (castStops !== null && castStops >= SHADE_CAST[by]) add('shade-cast', castStops / SHADE_CAST[by])
  if (contrast !== null && (contrast < SHADE_CONTRAST.min || contrast > SHADE_CONTRAST.max))
    add(
      'shade-contrast',
      Math.max(SHADE_CONTRAST.min / Math.max(contrast, 0.1), contrast / SHADE_CONTRAST.max),
    )
}

/** Whether the step into frame i breaks with the steps before and after it. */
function isJump(middles: readonly Point[], i: number): boolean {
  const step = (k: number) => ({ x: middles[k]!.x - middles[k - 1]!.x, y: middles[k]!.y - middles[k - 1]!.y })
  const [before, here] = [step(i - 1), step(i)]
  const after = i + 1 < middles.length ? step(i + 1) : before
  const usual = Math.max(length(before), length(after))
  const off = Math.min(
    length({ x: here.x - before.x, y: here.y - before.y }),
    length({ x: here.x - after.x, y: here.y - after.y }),
  )
  return off > JUMP_PX + JUMP_SHARE * usual
}

interface Point {
  readonly x: number
  readonly y: number
}

const length = ({ x, y }: Point): number => Math.sqrt(x * x + y * y)
