/**
 * Where a mark whose picture is known lies in a shot: by its edges, which stay on all frames while the ground under them goes by.
 *
 * Differences between neighbouring pixels, each limited so that strong edges of the ground have no more say than the mark's, are averaged over frames and compared with those
 * of the mark's own picture, everywhere at a reduced size, then around the best places at full size.
 * Source: matching by directions of gradients: common practice; the score is normalised cross-correlation (J. P. Lewis, "Fast normalized cross-correlation", 1995).
 */
import type { MarkPicture } from '../image/markPicture'
import { growRect, intersectRects, rectAround, wholePicture, type Rect } from '../image/rect'
import { maximumOf, type Samples } from '../image/samples'
import type { Clip } from '../shot/clip'
import type { RunContext } from '../shot/context'
import type { Frame } from '../time'

export interface FoundPlace {
  /** Its upper left corner, px. */
  readonly x: number
  readonly y: number
  /** 0 to 1: how well the edges there are the mark's, and how much better than anywhere else. */
  readonly sure: number
}

/** The longer side of the mark at the reduced size, px. */
const REDUCED_PX = 56
const MAX_REDUCTION = 8
/** So many of the mark's strongest edges are compared, at the reduced size and at full size. */
const PLACES = { reduced: 300, full: 1500 } as const
/** Places of the reduced picture that are looked at closely, at least so far from each other in sides of the mark. */
const CANDIDATES = 5
const APART = 0.3
/** A difference counts at most this much, in the plate's scale. */
const LIMIT = 0.03
/** Scores of the best place at which it is surely the mark, or not at all. */
const SURE_SCORE = { none: 0.15, full: 0.5 } as const

/** @param frames  That are looked at together. @returns null when it was stopped, or the mark is larger than the picture. */
export async function placeMark(
  clip: Clip,
  mark: MarkPicture,
  frames: readonly Frame[],
  context: RunContext,
): Promise<FoundPlace | null> {
  const { plate } = clip
  if (mark.width > plate.width || mark.height > plate.height) return null
  const by = Math.min(MAX_REDUCTION, Math.max(1, Math.floor(Math.max(mark.width, mark.height) / REDUCED_PX)))
  const [width, height] = [Math.floor(plate.width / by), Math.floor(plate.height / by)]
  const sums = { x: new Float32Array(width * height), y: new Float32Array(width * height), width, height }
  let level = 0
  for (const [done, frame] of frames.entries()) {
    const map = lumaOf(await clip.readRect(frame, wholePicture(plate)), by)
    if (context.shouldStop()) return null
    for (const value of map.data) level += value / (map.data.length * frames.length)
    addSlopes(sums, map)
    context.onProgress?.(done + 1, 2 * frames.length)
  }
  const coarse = strongestEdges(changeOf(mark, level, by), PLACES.reduced)
  if (coarse.length === 0) return null
  const span = { width: Math.floor(mark.width / by), height: Math.floor(mark.height / by) }
  const candidates = bestOf(sums, coarse, span)
  const fine = strongestEdges(changeOf(mark, level, 1), PLACES.full)
  const looks = candidates.map(({ x, y }) => lookAround(x * by, y * by, mark, by, wholePicture(plate)))
  for (const [done, frame] of frames.entries()) {
    for (const look of looks) addSlopes(look.sums, lumaOf(await clip.readRect(frame, look.rect), 1))
    if (context.shouldStop()) return null
    context.onProgress?.(frames.length + done + 1, 2 * frames.length)
  }
  const found = looks.map((look) => bestWithin(look, fine)).sort((a, b) => b.score - a.score)
  const [best, next] = found
  if (!best) return null
  const share = (best.score - SURE_SCORE.none) / (SURE_SCORE.full - SURE_SCORE.none)
  const ahead = next ? 1 - Math.max(0, next.score) / Math.max(1e-6, best.score) : 1
  return {
    x: best.x,
    y: best.y,
    sure: Math.min(1, Math.max(0, share)) * Math.min(1, Math.max(0, 2 * ahead)),
  }
}

interface Plane {
  readonly data: Float32Array
  readonly width: number
  readonly height: number
}

/** Mean of the channels, averaged over squares of so many px. */
function lumaOf(samples: Samples, by: number): Plane {
  const { channels, data } = samples
  const [width, height] = [Math.floor(samples.width / by), Math.floor(samples.height / by)]
  const out = new Float32Array(width * height)
  const colours = Math.min(3, channels)
  const scale = 1 / (maximumOf(data) * colours * by * by)
  for (let row = 0; row < height * by; row++) {
    const to = Math.floor(row / by) * width
    for (let col = 0; col < width * by; col++) {
      const from = (row * samples.width + col) * channels
      let sum = 0
      for (let c = 0; c < colours; c++) sum += data[from + c]!
      out[to + ((col / by) | 0)]! += sum * scale
    }
  }
  return { data: out, width, height }
}

/** What the mark changes over ground of a brightness, mean of the channels, reduced. */
function changeOf(
  { width, height, channels, added, opacity }: MarkPicture,
  level: number,
  by: number,
): Plane {
  const [cols, rows] = [Math.floor(width / by), Math.floor(height / by)]
  const out = new Float32Array(cols * rows)
  for (let row = 0; row < rows * by; row++) {
    for (let col = 0; col < cols * by; col++) {
      const at = row * width + col
      let sum = 0
      for (let c = 0; c < channels; c++) sum += added[at * channels + c]!
      out[Math.floor(row / by) * cols + Math.floor(col / by)]! +=
        (sum / channels - opacity[at]! * level) / (by * by)
    }
  }
  return { data: out, width: cols, height: rows }
}

/** Sums of slopes across and down. */
interface Slopes {
  readonly x: Float32Array
  readonly y: Float32Array
  readonly width: number
  readonly height: number
}

const limited = (value: number): number => (value > LIMIT ? LIMIT : value < -LIMIT ? -LIMIT : value)

function addSlopes({ x, y }: Slopes, { data, width, height }: Plane): void {
  for (let row = 0; row + 1 < height; row++) {
    for (let at = row * width; at < (row + 1) * width - 1; at++) {
      x[at]! += limited(data[at + 1]! - data[at]!)
      y[at]! += limited(data[at + width]! - data[at]!)
    }
  }
}

interface MarkEdge {
  readonly col: number
  readonly row: number
  readonly x: number
  readonly y: number
}

function strongestEdges({ data, width, height }: Plane, most: number): MarkEdge[] {
  const edges: (MarkEdge & { readonly size: number })[] = []
  for (let row = 0; row + 1 < height; row++) {
    for (let col = 0; col + 1 < width; col++) {
      const at = row * width + col
      const [x, y] = [limited(data[at + 1]! - data[at]!), limited(data[at + width]! - data[at]!)]
      const size = x * x + y * y
      if (size > 1e-6) edges.push({ col, row, x, y, size })
    }
  }
  return edges.sort((a, b) => b.size - a.size).slice(0, most)
}

/** Normalised correlation of the mark's edges with what is there; 1 is alike, whatever the contrast. */
function scoreAt({ x, y, width }: Slopes, edges: readonly MarkEdge[], col: number, row: number): number {
  let [cross, own, there] = [0, 0, 0]
  for (let k = 0; k < edges.length; k++) {
    const edge = edges[k]!
    const at = (row + edge.row) * width + col + edge.col
    const [a, b] = [x[at]!, y[at]!]
    cross += edge.x * a + edge.y * b
    own += edge.x * edge.x + edge.y * edge.y
    there += a * a + b * b
  }
  return there > 0 ? cross / Math.sqrt(own * there) : 0
}

/** The best places of the whole picture, apart from each other. */
function bestOf(
  slopes: Slopes,
  edges: readonly MarkEdge[],
  { width, height }: { readonly width: number; readonly height: number },
): readonly { readonly x: number; readonly y: number }[] {
  const [cols, rows] = [slopes.width - width, slopes.height - height]
  const scores: { readonly x: number; readonly y: number; readonly score: number }[] = []
  for (let row = 0; row <= rows; row++)
    for (let col = 0; col <= cols; col++)
      scores.push({ x: col, y: row, score: scoreAt(slopes, edges, col, row) })
  scores.sort((a, b) => b.score - a.score)
  const apart = Math.max(2, APART * Math.min(width, height))
  const best: { readonly x: number; readonly y: number }[] = []
  for (const one of scores) {
    if (best.every(({ x, y }) => Math.abs(x - one.x) > apart || Math.abs(y - one.y) > apart)) best.push(one)
    if (best.length === CANDIDATES) break
  }
  return best
}

/** A part of the picture at full size around where the mark may lie. */
interface Look {
  readonly rect: Rect
  readonly sums: Slopes
  readonly mark: { readonly width: number; readonly height: number }
}

function lookAround(x: number, y: number, mark: MarkPicture, by: number, whole: Rect): Look {
  const around = growRect(rectAround(x, y, x + mark.width, y + mark.height), 2 * by + 2)
  const rect = intersectRects(around, whole)!
  const { width, height } = rect
  const sums = { x: new Float32Array(width * height), y: new Float32Array(width * height), width, height }
  return { rect, sums, mark }
}

function bestWithin({ rect, sums, mark }: Look, edges: readonly MarkEdge[]) {
  const [cols, rows] = [rect.width - mark.width, rect.height - mark.height]
  const score = (col: number, row: number) =>
    col < 0 || row < 0 || col > cols || row > rows ? -1 : scoreAt(sums, edges, col, row)
  let best = { col: 0, row: 0, score: -1 }
  for (let row = 0; row <= rows; row++) {
    for (let col = 0; col <= cols; col++) {
      const here = score(col, row)
      if (here > best.score) best = { col, row, score: here }
    }
  }
  const { col, row } = best
  return {
    x: rect.col + col + vertexOf(score(col - 1, row), best.score, score(col + 1, row)),
    y: rect.row + row + vertexOf(score(col, row - 1), best.score, score(col, row + 1)),
    score: best.score,
  }
}

/** Of a parabola through three scores beside each other, where it is highest, from the middle one. */
function vertexOf(before: number, here: number, after: number): number {
  const bend = before - 2 * here + after
  if (before < 0 || after < 0 || !(bend < 0)) return 0
  return Math.min(0.5, Math.max(-0.5, (before - after) / (2 * bend)))
}
