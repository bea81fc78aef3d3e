/** From lines that were followed to what they are: scratches, bad columns and rows, lines of a tape. */
import { medianOf } from '../../image/median'
import type { Size } from '../../image/rect'
import type { Frame, FrameRange } from '../../time'
import type { CarrierPart } from './carrier'
import type { StandingLine } from './standingLines'

/** A column or row of the sensor. */
export interface BadLine {
  readonly axis: 'x' | 'y'
  /** Its middle, px. */
  readonly at: number
  readonly widthPx: number
  readonly offset: number
  readonly sure: number
}

/** An upright line of film that may sway. */
export interface Scratch {
  readonly keys: readonly { readonly frame: Frame; readonly x: number; readonly widthPx: number }[]
  readonly offset: number
  readonly sure: number
}

/** Rows that are wrong on one frame. */
export interface TapeLine {
  readonly frame: Frame
  readonly y: number
  readonly widthPx: number
  readonly sure: number
}

export interface Damage {
  readonly bad: readonly BadLine[]
  readonly scratches: readonly Scratch[]
  readonly tape: readonly TapeLine[]
}

/** Of the frames from its first to its last a line is seen on so many. */
const MIN_SEEN = 0.6
/** A bad line is there on nearly all frames, at one place. */
const BAD_FRAMES = 0.8
const BAD_DEVIATION_PX = 0.2
const MAX_BAD_PX = 2.5
/** Before a locked camera only what is as sharp as no lens draws it. */
const MAX_RESTING_PX = 1.3
const MIN_SCRATCH_FRAMES = 6
/** What goes with the picture does not deviate from its course by as much, px; and a scratch sways, but does not travel. */
const OWN_WAY_PX = 0.6
const MAX_SWAY_PX = 4
/** A line of a tape: hardly anything of it is hidden by the picture, and it stands out by so many steps of light. */
const TAPE_SHARE = 0.93
const TAPE_OFFSET = 12
const TOGETHER_PX = 6

export function damageOf(
  { upright, level, course }: Pick<CarrierPart, 'upright' | 'level' | 'course'>,
  { height }: Size,
  { firstFrame, lastFrame }: FrameRange,
): Damage {
  const all = lastFrame - firstFrame + 1
  const standing = [...upright, ...level]
    .map((line) => ({ axis: line.axis, seen: line.seen.filter(({ isFaint }) => !isFaint) }))
    .filter(({ seen }) => seen.length >= MIN_SEEN * (seen.at(-1)!.frame - seen[0]!.frame + 1))
  const bad: BadLine[] = []
  const scratches: Scratch[] = []
  for (const line of standing) {
    const { seen, axis } = line
    if (seen.length < MIN_SCRATCH_FRAMES && seen.length < BAD_FRAMES * all) continue
    const places = seen.map(({ at }) => at)
    const at = medianOf(places)
    const own = deviationOf(places)
    const withPicture = deviationOf(seen.map((one) => one.at - (course.get(one.frame)?.[axis] ?? 0)))
    const isOwn = withPicture >= OWN_WAY_PX
    const widthPx = medianOf(seen.map((one) => one.widthPx))
    const offset = medianOf(seen.map((one) => one.offset))
    const share = medianOf(seen.map((one) => one.share))
    // Before a locked camera an upright edge of what is filmed stands as still.
    const sure = share * (isOwn ? 1 : 0.45)
    if (
      own <= BAD_DEVIATION_PX &&
      widthPx <= (isOwn ? MAX_BAD_PX : MAX_RESTING_PX) &&
      seen.length >= BAD_FRAMES * all
    )
      bad.push({ axis, at: Math.floor(at) + 0.5, widthPx: Math.max(1, Math.round(widthPx)), offset, sure })
    else if (axis === 'x' && isOwn && own <= MAX_SWAY_PX && seen.length >= MIN_SCRATCH_FRAMES)
      scratches.push({
        keys: seen.map((one) => ({ frame: one.frame, x: one.at, widthPx: one.widthPx + 2 })),
        offset,
        sure: sure * Math.min(1, seen.length / 12),
      })
  }
  return { bad, scratches, tape: tapeLines(level, height) }
}

/** What is on neither the frame before nor the one after, not even faintly. Rows side by side on one frame are one line. */
function tapeLines(level: readonly StandingLine[], height: number): TapeLine[] {
  const found = level
    .filter(({ seen }) => seen.length === 1)
    .map(({ seen: [line] }) => line!)
    .filter(
      ({ share, offset, at }) =>
        share >= TAPE_SHARE && Math.abs(offset) >= TAPE_OFFSET && at > 4 && at < height - 4,
    )
    .sort((a, b) => a.frame - b.frame || a.at - b.at)
  const lines: { frame: Frame; top: number; bottom: number; sure: number }[] = []
  for (const { frame, at, widthPx, share, offset } of found) {
    const [top, bottom] = [at - widthPx / 2, at + widthPx / 2]
    const sure = share * Math.min(1, Math.abs(offset) / (3 * TAPE_OFFSET))
    const last = lines.at(-1)
    if (last?.frame === frame && top - last.bottom < TOGETHER_PX)
      Object.assign(last, { bottom, sure: Math.max(sure, last.sure) })
    else lines.push({ frame, top, bottom, sure })
  }
  return lines.map(({ frame, top, bottom, sure }) => ({
    frame,
    y: (top + bottom) / 2,
    widthPx: bottom - top,
    sure,
  }))
}

/** Deviation from the mean, px. */
function deviationOf(values: readonly number[]): number {
  const mean = values.reduce((sum, value) => sum + value, 0) / values.length
  return Math.sqrt(values.reduce((sum, value) => sum + (value - mean) * (value - mean), 0) / values.length)
}
