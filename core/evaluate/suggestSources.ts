/** Looks for good places to copy from: near, with a rim like the area's, clear of other mends, inside the picture, over the whole span. */
import type { Area } from '../document/areas'
import type { Mend } from '../document/mend'
import { growRect, intersectRects, wholePicture, type Rect } from '../image/rect'
import type { Raster } from '../image/raster'
import { outerPxOf } from '../matte/edge'
import { placeArea } from '../plan/placedArea'
import { tableOf } from '../plan/planFrame'
import type { ShotDocument } from '../plan/shotDocument'
import type { Clip } from '../shot/clip'
import type { RunContext } from '../shot/context'
import type { Frame } from '../time'
import { coveredBounds, coverShapes, isSameThing } from './coverage'
import { readRaster } from './fillInput'
import { maskOfShapes, type MarkedShape } from './shapeMask'
import { ShapeReader } from './shapeReader'

/** The area that a source is looked for, and the frame that is looked at. */
export interface SuggestRequest {
  readonly mendId: string
  readonly areaId: string
  readonly frame: Frame
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
  document: ShotDocument,
  request: SuggestRequest,
  clip: Clip,
  context: RunContext,
): Promise<SuggestedSource[]> {
  const views = await openViews(document, request, clip, context)
  if (views.length === 0) return []
  const size = sizeOf(views[0]!.area)
  const reach = reachOf(size)
  const found: SuggestedSource[] = []
  for (let dy = -reach; dy <= reach; dy += STEP_PX) {
    if (context.shouldStop()) return []
    for (let dx = -reach; dx <= reach; dx += STEP_PX) {
      const difference = priceOf(views, dx, dy, size, clip.plate)
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
    chosen.push(refined(views, one, size, clip.plate))
  }
  return chosen.sort((a, b) => a.difference - b.difference)
}

const reachOf = (size: number): number =>
  Math.min(REACH_PX.max, Math.max(REACH_PX.min, Math.ceil(REACH_PX.sizes * size)))

/** The area on the frame looked at, and on some over its span. */
async function openViews(
  document: ShotDocument,
  { mendId, areaId, frame }: SuggestRequest,
  clip: Clip,
  context: RunContext,
): Promise<View[]> {
  const mend = document.mends.find(({ id }) => id === mendId)
  const area = mend?.areas.find(({ id }) => id === areaId)
  if (!mend || !area) return []
  const { firstFrame, lastFrame } = mend.span
  const step = (lastFrame - firstFrame) / (FRAMES_LOOKED_AT - 1)
  const spread = Array.from({ length: FRAMES_LOOKED_AT }, (_, i) => Math.round(firstFrame + i * step))
  const reader = new ShapeReader(clip)
  const views: View[] = []
  for (const at of new Set([frame, ...spread])) {
    if (context.shouldStop()) return []
    const view = await openView(document, mend, area, at, clip, reader)
    if (view) views.push(view)
  }
  return views
}

const COVERED = 1
const HELD_OUT = 2

async function openView(
  document: ShotDocument,
  { finish }: Mend,
  area: Area,
  frame: Frame,
  clip: Clip,
  reader: ShapeReader,
): Promise<View | null> {
  const [own] = await reader.all([placeArea(area, document.tracks, frame).shape], frame)
  if (!own) return null
  const bounds = coveredBounds(own, finish)
  const margin = reachOf(Math.max(bounds.width, bounds.height)) + RIM_PX + 4
  const rect = intersectRects(growRect(bounds, margin), wholePicture(clip.plate))
  if (!rect) return null
  const marked: MarkedShape[] = []
  for (const other of tableOf(document, frame).near(rect)) {
    const [shape] = await reader.all([other.placed.shape], frame)
    const isOwn = other.placed.area === area
    if (!shape || isOwn || (!other.isHoldout && isSameThing(shape, own))) continue
    marked.push({ shape, growPx: outerPxOf(other.edge), value: other.isHoldout ? HELD_OUT : COVERED })
  }
  const outer = outerPxOf(finish)
  const covered = coverShapes([own], rect, Math.max(1, outer + RIM_PX), finish)
  const others = maskOfShapes(marked, rect)
  const [inside, rim]: [number[], number[]] = [[], []]
  for (let i = 0; i < covered.field.count; i++) {
    const [pixel, edge] = [covered.field.pixels[i]!, covered.field.edges[i]!]
    const place = [rect.col + (pixel % rect.width), rect.row + ((pixel / rect.width) | 0)] as const
    if (covered.coverage[i]! > 0) inside.push(...place)
    else if (edge > outer && edge <= outer + RIM_PX && others[pixel] === 0) rim.push(...place)
  }
  if (inside.length === 0 || rim.length === 0) return null
  return {
    picture: await readRaster(clip, frame, rect),
    rect,
    area: thinned(inside, AREA_PLACES),
    rim: thinned(rim, RIM_PLACES),
    masked: maskOfShapes([...marked, { shape: own, growPx: outer, value: COVERED }], rect),
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
  { width, height }: Clip['plate'],
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
  plate: Clip['plate'],
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
