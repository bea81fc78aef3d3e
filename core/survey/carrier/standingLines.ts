/**
 * Lines that stand in the frame while the picture goes by: scratches, which run upright and may sway, and whole bad columns and rows
 * of a sensor, which do neither; and lines of a tape, which are there for a frame.
 *
 * Source: A. Kokaram, "Motion Picture Restoration", Springer 1998, chapter on lines: the mean along the line of what stands out across
 * it; here piece by piece, so that it must be there along most of its length.
 */
import { medianOf } from '../../image/median'
import type { Frame } from '../../time'
import type { Light } from './light'

/** A line of a whole picture's height or width on one frame. */
export interface SeenLine {
  /** Its middle across, px. */
  readonly at: number
  readonly widthPx: number
  /** How much lighter it is than what lies beside it, steps of light; below 0 darker. */
  readonly offset: number
  /** Share of its pieces that show it. */
  readonly share: number
  /** Too faint to be taken for a line by itself: it only goes on with one. */
  readonly isFaint: boolean
}

/** Of the picture's extent along the line. */
const PIECES = 16
/** Neighbours across that a line is compared with, px: no line is wider than it. */
const BESIDE_PX = 4
/** A real edge beside it counts no more than so many steps of light. */
const CAP = 100
/** A line stands out of what columns differ by anyway, deviations of that; and so many steps of light at least. */
const OUT_DEVIATIONS = 6
const OUT_LEAST = 2.5
const MIN_SHARE = 0.8
/** Of both, what is faint has at least. */
const FAINT = { size: 0.35, share: 0.55 }

/** All lines of a frame. @param axis  'x': upright ones, by their columns; 'y': level ones, by their rows. */
export function linesOf(light: Light, axis: 'x' | 'y'): SeenLine[] {
  const count = axis === 'x' ? light.width : light.height
  const pieces = axis === 'x' ? piecesOfColumns(light) : piecesOfRows(light)
  const means = new Float32Array(count)
  const column = new Array<number>(PIECES).fill(0)
  for (let at = 0; at < count; at++) {
    for (let piece = 0; piece < PIECES; piece++) column[piece] = pieces[piece * count + at]!
    means[at] = medianOf(column)
  }
  const usual = medianOf(Array.from(means, Math.abs)) / 0.6745
  const limit = Math.max(OUT_LEAST, OUT_DEVIATIONS * usual)
  const out: SeenLine[] = []
  for (let at = BESIDE_PX; at < count - BESIDE_PX; at++) {
    const size = Math.abs(means[at]!)
    if (size < FAINT.size * limit || size < Math.abs(means[at - 1]!) || size <= Math.abs(means[at + 1]!))
      continue
    const sign = means[at]! > 0 ? 1 : -1
    let shown = 0
    for (let piece = 0; piece < PIECES; piece++) if (sign * pieces[piece * count + at]! > size / 3) shown++
    const share = shown / PIECES
    if (share < FAINT.share) continue
    const isFaint = size < limit || share < MIN_SHARE || isEcho(means, at, sign)
    out.push({ ...extentAround(means, at, sign), offset: sign * size, share, isFaint })
  }
  return out
}

const ECHO_SHARE = 0.9

/** What is compared with a line seems a line of the other sign, half as strong; beside a bar wider than any line, as strong. */
function isEcho(means: Float32Array, at: number, sign: number): boolean {
  const most = ECHO_SHARE * Math.abs(means[at]!)
  for (let k = at - BESIDE_PX - 2; k <= at + BESIDE_PX + 2; k++)
    if (-sign * (means[k] ?? 0) > most) return true
  return false
}

/** Its middle by weight, and its width as that of a bar as strong as it is where it is strongest. */
function extentAround(means: Float32Array, at: number, sign: number): Pick<SeenLine, 'at' | 'widthPx'> {
  let [sum, weighted] = [0, 0]
  for (let k = at - 2; k <= at + 2; k++) {
    const value = Math.max(0, sign * means[k]!)
    sum += value
    weighted += value * (k + 0.5)
  }
  return { at: weighted / sum, widthPx: Math.max(1, sum / Math.abs(means[at]!)) }
}

const bounded = (off: number): number => (off > CAP ? CAP : off < -CAP ? -CAP : off)

/** Of each piece and column, how much lighter it is on average than the columns beside. */
function piecesOfColumns({ width, height, data }: Light): Float32Array {
  const out = new Float32Array(PIECES * width)
  for (let piece = 0; piece < PIECES; piece++) {
    const [first, past] = [Math.floor((piece * height) / PIECES), Math.floor(((piece + 1) * height) / PIECES)]
    const from = piece * width
    let rows = 0
    for (let row = first; row < past; row += 2, rows++) {
      for (let col = BESIDE_PX, at = row * width + col; col < width - BESIDE_PX; col++, at++) {
        const [left, right] = [data[at]! - data[at - BESIDE_PX]!, data[at]! - data[at + BESIDE_PX]!]
        out[from + col]! += bounded(left) + bounded(right)
      }
    }
    for (let col = 0; col < width; col++) out[from + col]! /= 2 * Math.max(1, rows)
  }
  return out
}

function piecesOfRows({ width, height, data }: Light): Float32Array {
  const out = new Float32Array(PIECES * height)
  const away = BESIDE_PX * width
  for (let row = BESIDE_PX; row < height - BESIDE_PX; row++) {
    for (let piece = 0; piece < PIECES; piece++) {
      const [first, past] = [Math.floor((piece * width) / PIECES), Math.floor(((piece + 1) * width) / PIECES)]
      let sum = 0
      for (let at = row * width + first; at < row * width + past; at += 2) {
        sum += bounded(data[at]! - data[at - away]!) + bounded(data[at]! - data[at + away]!)
      }
      out[piece * height + row] = sum / (2 * Math.ceil((past - first) / 2))
    }
  }
  return out
}

/** A line over the frames on which it stands. */
export interface StandingLine {
  readonly axis: 'x' | 'y'
  readonly seen: readonly (SeenLine & { readonly frame: Frame })[]
  readonly firstFrame: Frame
  readonly lastFrame: Frame
}

/** From one frame to the next it may go so far. */
const SWAY_PX = 2.5
/** And over frames on which it is not seen so much further each. */
const MORE_PX = 0.5
/** It is at least so strong against the last time. */
const ALIKE_SHARE = 0.25
/** Frames on which it may be out of sight. */
const MAX_GAP = 3

export interface LineFollower {
  add(frame: Frame, lines: readonly SeenLine[]): void
  finish(): StandingLine[]
}

/** Follows lines from frame to frame: the nearest of the same sign. */
export function followLines(axis: 'x' | 'y'): LineFollower {
  interface Course {
    seen: (SeenLine & { readonly frame: Frame })[]
  }
  let open: Course[] = []
  const done: Course[] = []
  return {
    add(frame, lines) {
      const isTaken = new Set<SeenLine>()
      for (const course of open) {
        const last = course.seen.at(-1)!
        let best: SeenLine | null = null
        for (const line of lines) {
          if (isTaken.has(line) || line.offset / last.offset < ALIKE_SHARE) continue
          const away = Math.abs(line.at - last.at)
          if (
            away <= SWAY_PX + MORE_PX * (frame - last.frame - 1) &&
            (!best || away < Math.abs(best.at - last.at))
          )
            best = line
        }
        if (!best) continue
        isTaken.add(best)
        course.seen.push({ ...best, frame })
      }
      const isOver = (course: Course) => frame - course.seen.at(-1)!.frame > MAX_GAP
      done.push(...open.filter(isOver))
      open = open.filter((course) => !isOver(course))
      for (const line of lines)
        if (!isTaken.has(line) && !line.isFaint) open.push({ seen: [{ ...line, frame }] })
    },
    finish: () =>
      [...done, ...open].map(({ seen }) => ({
        axis,
        seen,
        firstFrame: seen[0]!.frame,
        lastFrame: seen.at(-1)!.frame,
      })),
  }
}
