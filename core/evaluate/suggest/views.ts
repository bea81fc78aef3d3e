/** Frames on which places to copy from are compared: the area, its rim, and what lies around them. */
import type { Area } from '../../document/areas'
import { followMotion, keyedGeometryAt } from '../../document/keyedGeometry'
import type { Mend } from '../../document/mend'
import { placeOfArea, ridesWith } from '../../document/sourceKeys'
import { apply, IDENTITY, invert, type Matrix3, type Place } from '../../geometry/transform'
import type { Raster } from '../../image/raster'
import { growRect, intersectRects, wholePicture, type Rect } from '../../image/rect'
import { outerPxOf } from '../../matte/edge'
import { placeArea } from '../../plan/placedArea'
import { tableOf } from '../../plan/planFrame'
import type { ShotDocument } from '../../plan/shotDocument'
import type { Clip } from '../../shot/clip'
import type { RunContext } from '../../shot/context'
import type { Frame } from '../../time'
import { coveredBounds, coverShapes, isSameThing } from '../coverage'
import { readRaster } from '../fillInput'
import { maskOfShapes, type MarkedShape } from '../shapeMask'
import { ShapeReader } from '../shapeReader'

/** The area that a source is looked for, and the frame that is looked at. */
export interface SuggestRequest {
  readonly mendId: string
  readonly areaId: string
  readonly frame: Frame
}

const FRAMES_LOOKED_AT = 5
const REACH_PX = { min: 120, max: 420, sizes: 1.6 } as const
const RIM_PLACES = 160
const AREA_PLACES = 220
const RIM_PX = 6 // how wide the rim is that has to be alike

/** One frame. Places are x, y interleaved, px, on the frame that shifts are told of: this one, or the reference frame of what the area rides on. */
export interface SuggestView {
  readonly picture: Raster
  readonly rect: Rect
  readonly area: Float64Array
  readonly rim: Float64Array
  /** The plate at the rim's places, three channels at most, interleaved. */
  readonly rimValues: Float32Array
  /** Shifts turn and swell about it. */
  readonly middle: Place
  /** From the frame that shifts are told of to this one; null: they are the same. */
  readonly motion: Matrix3 | null
  /** `COVERED` by something, or `HELD_OUT`, of each pixel of `rect`. */
  readonly masked: Uint8Array
}

export const COVERED = 1
export const HELD_OUT = 2

export const reachOf = (size: number): number =>
  Math.min(REACH_PX.max, Math.max(REACH_PX.min, Math.ceil(REACH_PX.sizes * size)))

/** Channels whose likeness is looked at. */
export const comparedChannels = ({ channels }: Raster): number => Math.min(3, channels)

/** The area on the frame looked at, and on some over its span. */
export async function openViews(
  document: ShotDocument,
  mend: Mend,
  area: Area,
  frame: Frame,
  clip: Clip,
  context: RunContext,
): Promise<SuggestView[]> {
  const { firstFrame, lastFrame } = mend.span
  const step = (lastFrame - firstFrame) / (FRAMES_LOOKED_AT - 1)
  const spread = Array.from({ length: FRAMES_LOOKED_AT }, (_, i) => Math.round(firstFrame + i * step))
  const reader = new ShapeReader(clip)
  const views: SuggestView[] = []
  for (const at of new Set([frame, ...spread])) {
    if (context.shouldStop()) return []
    const view = await openView(document, mend, area, at, clip, reader)
    if (view) views.push(view)
  }
  return views
}

async function openView(
  document: ShotDocument,
  { finish }: Mend,
  area: Area,
  frame: Frame,
  clip: Clip,
  reader: ShapeReader,
): Promise<SuggestView | null> {
  const [own] = await reader.all([placeArea(area, document.tracks, frame).shape], frame)
  if (!own) return null
  const bounds = coveredBounds(own, finish)
  const margin = reachOf(Math.max(bounds.width, bounds.height)) + RIM_PX + 4
  const rect = intersectRects(growRect(bounds, margin), wholePicture(clip.plate))
  const back = backFrom(document, area, frame)
  if (!rect || !back) return null
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
    if (covered.coverage[i]! > 0) inside.push(pixel)
    else if (edge > outer && edge <= outer + RIM_PX && others[pixel] === 0) rim.push(pixel)
  }
  if (inside.length === 0 || rim.length === 0) return null
  const picture = await readRaster(clip, frame, rect)
  const compared = thinned(rim, RIM_PLACES)
  const middle = placeOfArea(area, document.tracks, frame)
  return {
    picture,
    rect,
    area: placesFrom(thinned(inside, AREA_PLACES), rect, back.matrix),
    rim: placesFrom(compared, rect, back.matrix),
    rimValues: valuesAt(compared, picture),
    middle: apply(back.matrix, middle.x, middle.y),
    motion: back.motion,
    masked: maskOfShapes([...marked, { shape: own, growPx: outer, value: COVERED }], rect),
  }
}

/** How this frame's places come to where shifts are told of, and the motion from there; null where that cannot be turned round. */
function backFrom(
  { tracks }: ShotDocument,
  area: Area,
  frame: Frame,
): { readonly matrix: Matrix3; readonly motion: Matrix3 | null } | null {
  const follow = ridesWith(area, tracks)
  if (!follow || area.shape === 'matte') return { matrix: IDENTITY, motion: null }
  const motion = followMotion(area, tracks.get(follow.trackId)!, frame, keyedGeometryAt(area, frame))
  const matrix = motion && invert(motion)
  return matrix && { matrix, motion }
}

/** Every n-th, so that about `most` are left. */
function thinned(pixels: readonly number[], most: number): Int32Array {
  const stride = Math.max(1, Math.floor(pixels.length / most))
  return Int32Array.from({ length: Math.ceil(pixels.length / stride) }, (_, i) => pixels[i * stride]!)
}

function placesFrom(pixels: Int32Array, rect: Rect, back: Matrix3): Float64Array {
  const places = new Float64Array(2 * pixels.length)
  pixels.forEach((pixel, i) => {
    const row = Math.floor(pixel / rect.width)
    const { x, y } = apply(back, rect.col + pixel - row * rect.width + 0.5, rect.row + row + 0.5)
    places[2 * i] = x
    places[2 * i + 1] = y
  })
  return places
}

/** The same with every n-th place only: for a first look at many shifts. */
export function withEvery(view: SuggestView, n: number): SuggestView {
  const channels = comparedChannels(view.picture)
  return {
    ...view,
    area: everyNth(view.area, 2, n),
    rim: everyNth(view.rim, 2, n),
    rimValues: everyNth(view.rimValues, channels, n),
  }
}

/** Every n-th of groups of so many numbers. */
const everyNth = <T extends Float64Array | Float32Array>(values: T, size: number, n: number): T =>
  values.filter((_, i) => Math.floor(i / size) % n === 0) as T

function valuesAt(pixels: Int32Array, picture: Raster): Float32Array {
  const channels = comparedChannels(picture)
  const values = new Float32Array(pixels.length * channels)
  pixels.forEach((pixel, i) => {
    for (let c = 0; c < channels; c++) values[i * channels + c] = picture.data[pixel * picture.channels + c]!
  })
  return values
}
