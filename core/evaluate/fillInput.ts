/** What a fill is given: on its own frame, and on others that it looks at. */
import { MAX_ANCHORS } from '../plate/anchors'
import { estimateMotion } from '../geometry/estimate'
import { compose, IDENTITY, type Matrix3 } from '../geometry/transform'
import type { MarkPicture } from '../image/markPicture'
import { NEVER, type FillInput, type FillStill, type Surroundings } from '../fill/method'
import { seedFromText } from '../finish/grain'
import { growRect, intersectRects, uniteRects, wholePicture, type Rect } from '../image/rect'
import { rasterFromSamples } from '../image/samples'
import type { Raster } from '../image/raster'
import { outerPxOf, rimPxOf } from '../matte/edge'
import { rectThrough } from '../plan/boxes'
import type { FramePlan, PlannedRequest } from '../plan/planFrame'
import { aroundOf } from '../plan/keys'
import { layerMapOf } from '../scene/sceneLayers'
import type { Clip } from '../shot/clip'
import {
  coveredBounds,
  coverShapes,
  holdoutDistancesOf,
  isSameThing,
  subtractHoldout,
  tabooOf,
  type CoveredShape,
  type TabooShape,
} from './coverage'
import type { ReadShape } from './readShape'
import type { Placement } from './placement'
import { pixelsAround } from './shapeMask'
import { plateOn, seenOn, type Canvas } from './canvas'
import type { ShapeReader } from './shapeReader'

/** The plate at a rectangle of a frame, in floats. */
export const readRaster = async (clip: Clip, frame: number, rect: Rect): Promise<Raster> =>
  rasterFromSamples(await clip.readRect(frame, rect))

/** How far from the drawn edge entries of the field are wanted. */
const fieldMarginPx = ({ mend: { finish }, ringPx }: Placement): number =>
  Math.max(outerPxOf(finish) + ringPx, finish.featherInPx - finish.growPx) + 1

/** What a placement covers on its own frame, its holdouts taken out. */
export function coveredHere(placement: Placement): CoveredShape {
  const { shapes, heldOut, readRect, mend } = placement
  const covered = coverShapes(shapes, readRect, fieldMarginPx(placement), mend.finish)
  for (const holdout of heldOut) subtractHoldout(covered.coverage, covered.field, holdout, readRect)
  return covered
}

/** @param canvas  With what mends before have made. */
export async function inputHere(
  placement: Placement,
  plan: FramePlan,
  canvas: Canvas,
  covered: CoveredShape,
  clip: Clip,
): Promise<FillInput> {
  const { readRect, sourceFromTarget, method, params, heldOut, taboo } = placement
  const { frame, scene } = plan
  const surroundings = { picture: seenOn(canvas, readRect), rect: readRect, taboo: tabooOf(taboo, readRect) }
  const source = await sourceHere(placement, frame, canvas, clip)
  const gathers = placement.requests.some(({ purpose, isOpen }) => purpose === 'gather' && !isOpen)
  return {
    ...plainInput(placement, frame, surroundings, covered, clip),
    source: source && sourceFromTarget ? { ...source, sourceFromTarget } : null,
    still: await readStill(placement, clip),
    mark: await readMark(placement, clip),
    layerMap: gathers && scene ? layerMapOf(scene, frame, aroundOf(scene, placement)) : null,
    holdoutDistances: holdoutDistancesOf(heldOut, covered.field, readRect, method.widensPx?.(params) ?? 0),
    plate: method.needsPlate ? plateOn(canvas, readRect) : null,
  }
}

/** Mends copy from the plate, where nothing covers it; strokes from what the picture is when they are painted. */
async function sourceHere(
  { mend, sourceRect, taboo, shapes }: Placement,
  frame: number,
  canvas: Canvas,
  clip: Clip,
): Promise<Surroundings | null> {
  if (!sourceRect) return null
  if (!mend.strokeSpan) return readSourceAt(frame, sourceRect, taboo, shapes, mend.finish, clip)
  return { picture: seenOn(canvas, sourceRect), rect: sourceRect, taboo: tabooOf(taboo, sourceRect) }
}

const NONE = new Int32Array(0)

function plainInput(
  { mend, shapes, aroundPx }: Placement,
  frame: number,
  surroundings: Surroundings,
  { field, coverage, path }: CoveredShape,
  { plate }: Clip,
): FillInput {
  const outerPx = outerPxOf(mend.finish)
  const { rect, taboo } = surroundings
  return {
    ...surroundings,
    frame,
    seed: seedFromText(mend.id),
    pictureSize: plate,
    field,
    wanted: coverage,
    path,
    around:
      aroundPx === 0 ? NONE : pixelsAround(shapes, rect, outerPx, outerPx + aroundPx, taboo, MAX_ANCHORS),
    rimPx: rimPxOf(mend.finish),
    outerPx,
    source: null,
    still: null,
    mark: null,
    plate: null,
    layerMap: null,
    holdoutDistances: null,
  }
}

/** What covers something on another frame, apart from what hands over to the area itself. */
export async function maskedOn(
  request: PlannedRequest,
  own: readonly ReadShape[],
  reader: ShapeReader,
): Promise<TabooShape[]> {
  const out: TabooShape[] = []
  for (const { placed, edge, isHoldout } of request.masked) {
    const [shape] = await reader.all([placed.shape], request.frame)
    if (!shape || (!isHoldout && own.some((one) => isSameThing(one, shape)))) continue
    out.push({ shape, edge, level: NEVER })
  }
  return out
}

/** What the fill of an area would read on another frame, around itself and at its source; null where it has no area there. */
export function readRectsOn(
  { sourceFromTarget }: PlannedRequest,
  shapes: readonly ReadShape[],
  { mend, method, params, ringPx, curve, outerPx }: Placement,
  { plate }: Clip,
): { readonly readRect: Rect; readonly sourceRect: Rect | null } | null {
  if (shapes.length === 0) return null
  const whole = wholePicture(plate)
  const covered = shapes.map((shape) => coveredBounds(shape, mend.finish)).reduce(uniteRects)
  const writeRect = intersectRects(covered, whole)
  if (!writeRect) return null
  const { marginPx } = method.reach(params, curve ? outerPx : 0)
  const margin = Math.ceil(Math.max(marginPx, ringPx + 3))
  const sourceRect = sourceFromTarget && rectThrough(sourceFromTarget, growRect(writeRect, ringPx), whole)
  return { readRect: intersectRects(growRect(writeRect, margin), whole)!, sourceRect: sourceRect ?? null }
}

/** What the fill of an area would be given on another frame; null where it has no area there. */
export async function inputOn(
  request: PlannedRequest,
  placement: Placement,
  clip: Clip,
  reader: ShapeReader,
): Promise<FillInput | null> {
  const { mend } = placement
  const shapes = await reader.all(
    request.shapes.map(({ shape }) => shape),
    request.frame,
  )
  const rects = readRectsOn(request, shapes, placement, clip)
  if (!rects) return null
  const { readRect: rect, sourceRect } = rects
  const masked = await maskedOn(request, shapes, reader)
  const covered = coverShapes(shapes, rect, fieldMarginPx(placement), mend.finish)
  const picture = await readRaster(clip, request.frame, rect)
  const input = plainInput(
    { ...placement, shapes, aroundPx: 0 },
    request.frame,
    { picture, rect, taboo: tabooOf(masked, rect) },
    covered,
    clip,
  )
  const { sourceFromTarget } = request
  if (!sourceRect || !sourceFromTarget) return input
  const source = await readSourceAt(request.frame, sourceRect, masked, shapes, mend.finish, clip)
  return { ...input, source: { ...source, sourceFromTarget } }
}

/** The plate where an area copies from. Whatever is covered still shows there; the area itself is no source either. */
async function readSourceAt(
  frame: number,
  rect: Rect,
  others: readonly TabooShape[],
  own: readonly ReadShape[],
  edge: TabooShape['edge'],
  clip: Clip,
): Promise<Surroundings> {
  const masked = [...others, ...own.map((shape) => ({ shape, edge }))]
  const taboo = tabooOf(
    masked.map((one) => ({ ...one, level: NEVER })),
    rect,
  )
  return { picture: await readRaster(clip, frame, rect), rect, taboo }
}

/** A fill's own picture, as far as the area's surroundings lie in it. Null where there is none of that name, or it lies elsewhere. */
async function readStill({ readRect, still }: Placement, clip: Clip): Promise<FillStill | null> {
  if (!still) return null
  const { of, corners, groundToIt } = still
  const whole = wholePicture(clip.plate)
  const placed = corners ? pictureFromCorners(corners, whole) : IDENTITY
  if (!placed) return null
  const rests = corners === null && groundToIt === null
  const stillFromTarget = rests ? IDENTITY : compose(placed, groundToIt ?? IDENTITY)
  const rect = rests ? readRect : rectThrough(stillFromTarget, readRect, whole)
  if (!rect) return null
  const samples = typeof of === 'string' ? await clip.readStill(of, rect) : await clip.readRect(of, rect)
  return samples && { samples, rect, stillFromTarget }
}

async function readMark({ mark }: Placement, clip: Clip): Promise<FillInput['mark']> {
  if (!mark) return null
  const key = `mark ${mark.of}`
  const known = clip.cache?.get(key) as MarkPicture | undefined
  const picture = known ?? (await clip.readMark(mark.of))
  if (picture && !known) clip.cache?.set(key, picture)
  return picture && { picture, x: mark.x, y: mark.y }
}

/** The motion that brings the places of four corners to those of a picture; null where they make no quadrangle. */
const pictureFromCorners = (corners: readonly number[], { width, height }: Rect): Matrix3 | null =>
  estimateMotion('perspective', corners, [0, 0, width, 0, width, height, 0, height])
