/** Parts of a path: where only some of it is to be filled, only that is looked at. */
import type { PathCurve } from '../geometry/pathCurve'
import { spanOf } from '../geometry/spline'
import { cropRaster } from '../image/raster'
import { growRect, intersectRects, rectAround, type Rect } from '../image/rect'
import { cropSamples } from '../image/samples'
import type { PathField } from '../matte/pathField'
import type { FillInput, PathPart } from './method'

/** What the two sides of a path are matched by reaches so far along it. */
const ALONG_PX = 24
/** Ends lie on such shares, so that from frame to frame it is the same part. */
const STEPS = 8

/** Of a path that is cut, only so much may be left in all: else it is not worth it. */
const MAX_SHARE = 0.75

/** The parts of a path on which entries lie, with what is needed around; null where that is nearly all of it. */
export function partsOfPath({ path }: FillInput, entries: Int32Array): readonly PathPart[] | null {
  if (!path || entries.length === 0) return null
  const { lengthPx } = path.curve
  const isAsked = new Uint8Array(STEPS)
  for (let i = 0; i < entries.length; i++) {
    const arc = path.field.arcs[entries[i]!]!
    const first = Math.max(0, Math.floor((STEPS * (arc - ALONG_PX)) / lengthPx))
    const last = Math.min(STEPS - 1, Math.floor((STEPS * (arc + ALONG_PX)) / lengthPx))
    for (let step = first; step <= last; step++) isAsked[step] = 1
  }
  const parts: { from: number; to: number }[] = []
  for (let step = 0; step < STEPS; step++) {
    if (isAsked[step] === 0) continue
    const open = parts.at(-1)
    if (open?.to === step / STEPS) open.to = (step + 1) / STEPS
    else parts.push({ from: step / STEPS, to: (step + 1) / STEPS })
  }
  const share = parts.reduce((sum, { from, to }) => sum + to - from, 0)
  return parts.length > 0 && share <= MAX_SHARE ? parts : null
}

/** A fill's input for part of its path only. */
export interface CutInput {
  readonly input: FillInput
  /** Which entries of the whole those of the part are; null: all of them. */
  readonly entries: Int32Array | null
}

/** @param marginPx  How far around what it covers it is read. */
export function cutToPart(whole: FillInput, { from, to }: PathPart, marginPx: number): CutInput {
  const { picture, taboo, path } = whole
  const { lengthPx, widths } = path!.curve
  const [fromPx, toPx] = [from * lengthPx, to * lengthPx]
  const curve = cutCurve(path!.curve, fromPx, toPx)
  const reach = Math.ceil(
    widths.reduce((max, width) => Math.max(max, width), 0) / 2 + whole.outerPx + marginPx,
  )
  const rect = intersectRects(growRect(boxOf(curve), reach), whole.rect) ?? whole.rect
  const part = { ...rect, col: rect.col - whole.rect.col, row: rect.row - whole.rect.row }
  const { entries, pixels } = entriesIn(whole, part, fromPx, toPx)
  const pick = (values: Float32Array) => {
    const out = new Float32Array(entries.length)
    for (let i = 0; i < out.length; i++) out[i] = values[entries[i]!]!
    return out
  }
  const { field } = path!
  const cut: PathField = {
    count: entries.length,
    pixels,
    edges: pick(whole.field.edges),
    distances: pick(field.distances),
    tangentXs: pick(field.tangentXs),
    tangentYs: pick(field.tangentYs),
    halfWidths: pick(field.halfWidths),
    arcs: pick(field.arcs).map((arc) => arc - fromPx),
    beyonds: pick(field.beyonds),
  }
  const wanted = whole.wanted instanceof Float32Array ? whole.wanted : Float32Array.from(whole.wanted)
  const input: FillInput = {
    ...whole,
    picture: cropRaster(picture, part),
    rect,
    taboo: taboo && (cropSamples({ ...picture, channels: 1, data: taboo }, part).data as Uint8Array),
    field: cut,
    wanted: pick(wanted),
    path: { curve, field: cut },
    holdoutDistances: whole.holdoutDistances && pick(whole.holdoutDistances),
  }
  return { input, entries }
}

function entriesIn({ field, path, rect }: FillInput, part: Rect, fromPx: number, toPx: number) {
  const [entries, pixels] = [new Int32Array(field.count), new Int32Array(field.count)]
  const { arcs } = path!.field
  let count = 0
  for (let i = 0; i < field.count; i++) {
    if (arcs[i]! < fromPx - 1 || arcs[i]! > toPx + 1) continue
    const row = (field.pixels[i]! / rect.width) | 0
    const [x, y] = [field.pixels[i]! - row * rect.width - part.col, row - part.row]
    if (x < 0 || y < 0 || x >= part.width || y >= part.height) continue
    entries[count] = i
    pixels[count++] = y * part.width + x
  }
  return { entries: entries.slice(0, count), pixels: pixels.slice(0, count) }
}

function boxOf({ xs, ys }: PathCurve): Rect {
  return rectAround(Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys))
}

/** A curve from one length along it to another. */
function cutCurve(curve: PathCurve, fromPx: number, toPx: number): PathCurve {
  const { arcs } = curve
  const [first, last] = [spanOf(arcs, fromPx), spanOf(arcs, toPx)]
  const at = (values: Float64Array, i: number, arc: number): number => {
    const next = Math.min(i + 1, arcs.length - 1)
    const span = arcs[next]! - arcs[i]!
    return span > 0 ? values[i]! + ((arc - arcs[i]!) / span) * (values[next]! - values[i]!) : values[i]!
  }
  const cut = (values: Float64Array): Float64Array =>
    Float64Array.of(
      at(values, first, fromPx),
      ...values.subarray(first + 1, last + 1),
      at(values, last, toPx),
    )
  const lengths = cut(arcs).map((arc) => arc - fromPx)
  return {
    xs: cut(curve.xs),
    ys: cut(curve.ys),
    arcs: lengths,
    tangentXs: cut(curve.tangentXs),
    tangentYs: cut(curve.tangentYs),
    widths: cut(curve.widths),
    lengthPx: toPx - fromPx,
    pointArcs: Float64Array.of(0, toPx - fromPx),
  }
}
