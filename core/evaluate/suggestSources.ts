/** Looks for good places to copy from: near, with a rim like the area's, clear of other mends, inside the picture, over the whole span. */
import { growRect, intersectRects, wholePicture, type Rect } from '../image/rect'
import type { Raster } from '../image/raster'
import type { RunContext } from '../fill/method'
import { outerPxOf } from '../matte/edge'
import type { Frame } from '../time'
import type { Area } from '../document/areas'
import { coverShape, coveredBounds, HARD, isSameThing, type CoveredShape } from './coverage'
import type { FrameSource } from '../shot/clip'
import { readRaster } from './readFrames'
import { placeArea, type PlacedShape } from '../plan/placedArea'
import { otherMendsOn, type OtherMend } from '../plan/planFrame'
import { ShapeReader } from './placement'
import type { Finish, Mend } from '../document/mend'
import type { Tracks } from '../document/tracks'

/** An area on some frames of its span, and what must be kept clear of there. */
export interface SuggestRequest {
  readonly finish: Finish
  readonly frames: readonly {
    readonly frame: Frame
    readonly shape: PlacedShape
    readonly otherMends: readonly OtherMend[]
  }[]
}

export interface SuggestedSource {
  readonly dx: number
  readonly dy: number
  /** How unlike the rims are, in the plate's scale: 0 is the same picture. */
  readonly difference: number
}

const FRAMES_LOOKED_AT = 5
const REACH_PX = { min: 120, max: 420, sizes: 1.6 } as const
const STEP_PX = 4
const RIM_PLACES = 160
const AREA_PLACES = 220
const RIM_PX = 6 // how wide the rim is that has to be alike
const MEAN_SHARE = 0.25 // brightness can be agreed: it counts less than structure
const FAR_PRICE = 0.006 // per area's size of distance, in the plate's scale
const HOLDOUT_PRICE = 0.08 // for the share of frames on which a holdout hides the source
const MAX_SUGGESTED = 8

export function suggestRequest(
  mend: Mend,
  area: Area,
  mends: readonly Mend[],
  tracks: Tracks,
  frame: Frame,
): SuggestRequest {
  const { firstFrame, lastFrame } = mend.span
  const step = (lastFrame - firstFrame) / (FRAMES_LOOKED_AT - 1)
  const frames = new Set([
    frame,
    ...Array.from({ length: FRAMES_LOOKED_AT }, (_, i) => Math.round(firstFrame + i * step)),
  ])
  const others = mends.filter((other) => other.id !== mend.id)
  const own = { ...mend, areas: mend.areas.filter((one) => one.id !== area.id) }
  return {
    finish: mend.finish,
    frames: [...frames].map((at) => ({
      frame: at,
      shape: placeArea(area, tracks, at),
      otherMends: otherMendsOn([...others, own], tracks, at),
    })),
  }
}

interface View {
  readonly picture: Raster
  readonly rect: Rect
  /** Places of the area and of its rim, x and y interleaved, in whole px of the picture. */
  readonly area: Int32Array
  readonly rim: Int32Array
  /** 1: covered by something; 2: held out. Of each pixel of `rect`. */
  readonly masked: Uint8Array
}

/** @returns The best shifts, the best first, each well apart from the others; none when every place is covered. */
export async function suggestSources(
  request: SuggestRequest,
  source: FrameSource,
  context: RunContext,
): Promise<SuggestedSource[]> {
  const views: View[] = []
  for (const one of request.frames) {
    if (context.shouldStop()) return []
    const view = await openView(one, request.finish, source)
    if (view) views.push(view)
  }
  if (views.length === 0) return []
  const size = sizeOf(views[0]!.area)
  const reach = Math.min(REACH_PX.max, Math.max(REACH_PX.min, Math.ceil(REACH_PX.sizes * size)))
  const found: SuggestedSource[] = []
  for (let dy = -reach; dy <= reach; dy += STEP_PX) {
    if (context.shouldStop()) return []
    for (let dx = -reach; dx <= reach; dx += STEP_PX) {
      const difference = priceOf(views, dx, dy, size, source.plate)
      if (difference !== null) found.push({ dx, dy, difference })
    }
  }
  found.sort((a, b) => a.difference - b.difference)
  const chosen: SuggestedSource[] = []
  for (const one of found) {
    if (chosen.length === MAX_SUGGESTED) break
    const apart = Math.max(12, size / 3)
    if (chosen.some((other) => Math.abs(other.dx - one.dx) < apart && Math.abs(other.dy - one.dy) < apart))
      continue
    chosen.push(refined(views, one, size, source.plate))
  }
  return chosen.sort((a, b) => a.difference - b.difference)
}

async function openView(
  { frame, shape, otherMends }: SuggestRequest['frames'][number],
  finish: Finish,
  source: FrameSource,
): Promise<View | null> {
  const reader = new ShapeReader(source)
  const [own] = await reader.all([shape], frame)
  if (!own) return null
  const bounds = coveredBounds(own, finish)
  const margin =
    Math.min(
      REACH_PX.max,
      Math.max(REACH_PX.min, Math.ceil(REACH_PX.sizes * Math.max(bounds.width, bounds.height))),
    ) +
    RIM_PX +
    4
  const rect = intersectRects(growRect(bounds, margin), wholePicture(source.plate))
  if (!rect) return null
  const masked = new Uint8Array(rect.width * rect.height)
  const mark = (covered: CoveredShape, near: Rect, as: number) => {
    for (let i = 0; i < covered.field.count; i++) {
      if (covered.coverage[i] === 0) continue
      const pixel = covered.field.pixels[i]!
      const at =
        (near.row - rect.row + ((pixel / near.width) | 0)) * rect.width +
        near.col -
        rect.col +
        (pixel % near.width)
      masked[at] = Math.max(masked[at]!, as)
    }
  }
  const covered = coverShape(own, null, rect, Math.max(1, outerPxOf(finish) + RIM_PX), finish)
  for (const other of otherMends) {
    for (const [shapes, edge, as] of [
      [await reader.all(other.covers, frame), other.finish, 1],
      [await reader.all(other.holdouts, frame), HARD, 2],
    ] as const) {
      for (const one of shapes) {
        const near = intersectRects(coveredBounds(one, edge), rect)
        if (!near || (as === 1 && isSameThing(one, own))) continue
        mark(coverShape(one, null, near, Math.max(1, outerPxOf(edge)), edge), near, as)
      }
    }
  }
  const area: number[] = []
  const rim: number[] = []
  const outer = outerPxOf(finish)
  for (let i = 0; i < covered.field.count; i++) {
    const pixel = covered.field.pixels[i]!
    const place = [rect.col + (pixel % rect.width), rect.row + ((pixel / rect.width) | 0)] as const
    if (covered.coverage[i]! > 0) area.push(...place)
    else if (
      covered.field.edges[i]! > outer &&
      covered.field.edges[i]! <= outer + RIM_PX &&
      masked[pixel] === 0
    )
      rim.push(...place)
  }
  mark(covered, rect, 1)
  if (area.length === 0 || rim.length === 0) return null
  return {
    picture: await readRaster(source, frame, rect),
    rect,
    area: thinned(area, AREA_PLACES),
    rim: thinned(rim, RIM_PLACES),
    masked,
  }
}

/** Every n-th place, so that about `most` are left. */
function thinned(places: readonly number[], max: number): Int32Array {
  const count = places.length / 2
  const stride = Math.max(1, Math.floor(count / max))
  const kept: number[] = []
  for (let i = 0; i < count; i += stride) kept.push(places[2 * i]!, places[2 * i + 1]!)
  return Int32Array.from(kept)
}

function sizeOf(area: Int32Array): number {
  let [left, right, top, bottom] = [Infinity, -Infinity, Infinity, -Infinity]
  for (let i = 0; i < area.length; i += 2) {
    left = Math.min(left, area[i]!)
    right = Math.max(right, area[i]!)
    top = Math.min(top, area[i + 1]!)
    bottom = Math.max(bottom, area[i + 1]!)
  }
  return Math.max(right - left, bottom - top) + 1
}

/** What a shift costs over all frames; null where it leads outside or into something covered. */
function priceOf(
  views: readonly View[],
  dx: number,
  dy: number,
  size: number,
  { width, height }: FrameSource['plate'],
): number | null {
  let sum = 0
  let heldOutViews = 0
  for (const { picture, rect, area, rim, masked } of views) {
    let isHeldOut = false
    for (let i = 0; i < area.length; i += 2) {
      const [col, row] = [area[i]! + dx, area[i + 1]! + dy]
      if (col < 0 || row < 0 || col >= width || row >= height) return null
      const at = inside(rect, col, row)
      if (at < 0 || masked[at] === 1) return null
      isHeldOut ||= masked[at] === 2
    }
    if (isHeldOut) {
      heldOutViews++
      continue
    }
    const difference = rimDifference(picture, rect, rim, masked, dx, dy)
    if (difference === null) return null
    sum += difference
  }
  const seen = views.length - heldOutViews
  if (seen === 0) return null
  return (
    sum / seen +
    (FAR_PRICE * Math.sqrt(dx * dx + dy * dy)) / size +
    (HOLDOUT_PRICE * heldOutViews) / views.length
  )
}

const inside = ({ col, row, width, height }: Rect, x: number, y: number): number =>
  x >= col && y >= row && x < col + width && y < row + height ? (y - row) * width + x - col : -1

/** Root mean square of the rim's differences, what is the same all round counting less. */
function rimDifference(
  { channels, data }: Raster,
  rect: Rect,
  rim: Int32Array,
  masked: Uint8Array,
  dx: number,
  dy: number,
): number | null {
  let count = 0
  let total = 0
  for (let c = 0; c < Math.min(3, channels); c++) {
    let [sum, squares, n] = [0, 0, 0]
    for (let i = 0; i < rim.length; i += 2) {
      const there = inside(rect, rim[i]! + dx, rim[i + 1]! + dy)
      if (there < 0 || masked[there] !== 0) continue
      const difference =
        data[inside(rect, rim[i]!, rim[i + 1]!) * channels + c]! - data[there * channels + c]!
      sum += difference
      squares += difference * difference
      n++
    }
    if (n < rim.length / 6) return null // most of the rim must be there to be compared
    const mean = sum / n
    total += Math.max(0, squares / n - mean * mean) + MEAN_SHARE * mean * mean
    count++
  }
  return Math.sqrt(total / count)
}

function refined(
  views: readonly View[],
  from: SuggestedSource,
  size: number,
  plate: FrameSource['plate'],
): SuggestedSource {
  let best = from
  for (let dy = from.dy - STEP_PX + 1; dy < from.dy + STEP_PX; dy++) {
    for (let dx = from.dx - STEP_PX + 1; dx < from.dx + STEP_PX; dx++) {
      const difference = priceOf(views, dx, dy, size, plate)
      if (difference !== null && difference < best.difference) best = { dx, dy, difference }
    }
  }
  return best
}
