/**
 * Mends on one frame: keys and tracks worked out, nothing left that depends on time. What the evaluator
 * takes, what is sent to workers, and what tells whether a mended frame is still good.
 */
import { findFill } from '../fill/registry'
import type { FramePurpose, FramesWanted, OtherFrame } from '../fill/method'
import type { PathPoint } from '../geometry/pathCurve'
import { apply, compose, IDENTITY, invert, translationBy, type Matrix3 } from '../geometry/transform'
import { growRect, intersectRects, type Rect } from '../image/rect'
import { NO_LAYER, type LayerMap } from '../scene/layerMap'
import { layerMapOf, motionBetween, type Scene } from '../scene/scene'
import type { Frame, FrameRange } from '../time'
import type { Area } from './areas'
import { followMotion, geometryAt, keyedGeometryAt, polygonOf, trackOf } from './geometry'
import { rampAt, type FillSettings, type Finish, type Mend } from './schema'
import { sourceFromTarget } from './shift'
import { boundsOfShape, boxThrough } from './shapeBounds'
import { trackMotionAt, type Tracks } from './tracks'

export type PlacedShape =
  | { readonly shape: 'path'; readonly points: readonly PathPoint[] }
  /** x, y pairs. */
  | { readonly shape: 'closed'; readonly polygon: readonly number[] }
  | { readonly shape: 'matte'; readonly pattern: string }

/** What a cover is like on another frame that its fill or its finish looks at. */
export interface PlacedLook extends Omit<OtherFrame, 'purpose'> {
  readonly purpose: FramePurpose | 'grain'
  /** The area there; for an anchor all that it covers during its span, as seen from there. None for grain. */
  readonly shapes: readonly PlacedShape[]
  readonly sourceFromTarget: Matrix3 | null
}

export interface PlacedCover {
  readonly shape: PlacedShape
  /** Layers of the frame around it, for gathering. */
  readonly layerMap: LayerMap | null
  readonly sourceFromTarget: Matrix3 | null
  readonly looks: readonly PlacedLook[]
}

export interface PlacedMend {
  /** Also the seed of its grain. */
  readonly id: string
  readonly fill: FillSettings
  readonly finish: Finish
  /** Strength and ramp together, above 0. */
  readonly share: number
  readonly covers: readonly PlacedCover[]
  readonly holdouts: readonly PlacedShape[]
}

/** What fills must keep away from on a frame: the areas of a mend that is on there. */
export interface PlacedStranger {
  readonly mendId: string
  readonly finish: Pick<Finish, 'featherOutPx' | 'featherInPx' | 'growPx'>
  readonly covers: readonly PlacedShape[]
  readonly holdouts: readonly PlacedShape[]
}

export interface FramePlan {
  readonly frame: Frame
  readonly mends: readonly PlacedMend[]
  /** Of every other frame that is looked at, what is on there. */
  readonly others: Readonly<Record<Frame, readonly PlacedStranger[]>>
}

/** Whether a mend changes anything on a frame. */
export const isActiveAt = (mend: Mend, frame: Frame): boolean => mend.isOn && mend.finish.strength > 0 && rampAt(mend.span, frame) > 0

/** An area on a frame. Asked for many times of the same area: the last answers are kept with it. */
export function placeArea(area: Area, tracks: Tracks, frame: Frame): PlacedShape {
  let kept = placements.get(area)
  if (!kept || kept.tracks !== tracks) placements.set(area, (kept = { tracks, byFrame: new Map() }))
  let placed = kept.byFrame.get(frame)
  if (!placed) kept.byFrame.set(frame, (placed = workOutArea(area, tracks, frame)))
  return placed
}

const placements = new WeakMap<Area, { readonly tracks: Tracks; readonly byFrame: Map<Frame, PlacedShape> }>()

function workOutArea(area: Area, tracks: Tracks, frame: Frame): PlacedShape {
  if (area.shape === 'matte') return { shape: 'matte', pattern: area.pattern }
  const geometry = geometryAt(area, tracks, frame)
  if (geometry.shape === 'path') return { shape: 'path', points: geometry.points }
  const track = trackOf(area, tracks)
  const keyed = keyedGeometryAt(area, frame)
  const motion = track && track.kind !== 'cling' ? followMotion(area, track, frame, keyed) : null
  if (!motion || keyed.shape === 'path') return { shape: 'closed', polygon: polygonOf(geometry) }
  // The whole outline goes through the motion, so that a box on a wall keeps to the wall's perspective.
  return { shape: 'closed', polygon: movedPolygon(polygonOf(keyed), motion) }
}

function movedPolygon(polygon: readonly number[], motion: Matrix3): number[] {
  const out: number[] = []
  for (let i = 0; i < polygon.length; i += 2) {
    const { x, y } = apply(motion, polygon[i]!, polygon[i + 1]!)
    out.push(x, y)
  }
  return out
}

/** All mends of a shot, and what is known of it. */
interface Stack {
  readonly mends: readonly Mend[]
  readonly tracks: Tracks
  readonly plate: FrameRange
  readonly scene: Scene | null
}

/**
 * Everything that is needed to mend one frame.
 * @param plate  The frames there are: no other is looked at. @param scene  Null as long as it has not been worked out.
 */
export function planFrame(mends: readonly Mend[], tracks: Tracks, frame: Frame, plate: FrameRange, scene: Scene | null = null): FramePlan {
  const stack: Stack = { mends, tracks, plate, scene }
  const placed = mends.filter((mend) => isActiveAt(mend, frame)).map((mend) => placeMend(mend, stack, frame))
  const frames = new Set(placed.flatMap(({ covers }) => covers.flatMap(({ looks }) => looks.map((look) => look.frame))))
  const others = Object.fromEntries([...frames].map((other) => [other, strangersOn(mends, tracks, other)]))
  return { frame, mends: placed, others }
}

export function strangersOn(mends: readonly Mend[], tracks: Tracks, frame: Frame): PlacedStranger[] {
  return (
    mends
      .filter((mend) => isActiveAt(mend, frame))
      // As drawn: frames that are gathered from may show a thing just outside its outline, and are outvoted there.
      .map(({ id, finish, areas }) => ({
        mendId: id,
        finish: { featherOutPx: finish.featherOutPx, featherInPx: finish.featherInPx, growPx: finish.growPx },
        covers: areas.filter((area) => area.role === 'cover').map((area) => placeArea(area, tracks, frame)),
        holdouts: areas.filter((area) => area.role === 'holdout').map((area) => placeArea(area, tracks, frame)),
      }))
  )
}

function placeMend(mend: Mend, stack: Stack, frame: Frame): PlacedMend {
  const { id, fill, finish, areas, span, source } = mend
  const { tracks, plate, scene } = stack
  const gathers = paramsOf(mend)?.gather !== undefined
  return {
    id,
    fill,
    finish: widened(mend),
    share: finish.strength * rampAt(span, frame),
    covers: areas
      .filter((area) => area.role === 'cover')
      .map((area) => ({
        shape: placeArea(area, tracks, frame),
        layerMap: gathers && scene ? layersNear(scene, area, tracks, frame) : null,
        sourceFromTarget: source && usesSource(mend) ? sourceFromTarget(source, area, tracks, frame) : null,
        looks: looksOf(mend, area, stack, frame, within(span, plate)),
      })),
    holdouts: areas.filter((area) => area.role === 'holdout').map((area) => placeArea(area, tracks, frame)),
  }
}

/** Where a fill looks for the thing outside its area, the area is as large as that. */
function widened(mend: Mend): Finish {
  const fill = paramsOf(mend)
  const byPx = fill?.method.widensPx?.(fill.params) ?? 0
  return byPx > 0 ? { ...mend.finish, growPx: mend.finish.growPx + byPx } : mend.finish
}

/** Further than this from an area no layer is asked for. */
const LAYERS_WITHIN_PX = 96

function layersNear(scene: Scene, area: Area, tracks: Tracks, frame: Frame, by?: Matrix3): LayerMap | null {
  const bounds = boundsOfShape(placeArea(area, tracks, frame))
  if (!bounds) return layerMapOf(scene, frame, { col: 0, row: 0, width: scene.plate.width, height: scene.plate.height })
  const around = growRect(bounds, LAYERS_WITHIN_PX)
  return layerMapOf(scene, frame, by ? boxThrough(by, around) : around)
}

const paramsOf = (mend: Mend) => {
  const method = findFill(mend.fill.methodId)
  if (!method) return null
  const params = method.params.parse(mend.fill.params)
  const wants = method.steady?.wants(params)
  return { method, params, wants, gather: wants?.gather }
}

const usesSource = (mend: Mend): boolean => {
  const fill = paramsOf(mend)
  return mend.source !== null && fill?.method.needsSource?.(fill.params) === true
}

const within = (span: FrameRange, plate: FrameRange): FrameRange => ({
  firstFrame: Math.max(span.firstFrame, plate.firstFrame),
  lastFrame: Math.min(span.lastFrame, plate.lastFrame),
})

/** Frames to either side over which colour agreement is averaged. */
const AGREE_FRAMES = 2

function looksOf(mend: Mend, area: Area, stack: Stack, frame: Frame, span: FrameRange): PlacedLook[] {
  const { mends, tracks } = stack
  const fill = paramsOf(mend)
  if (!fill) return []
  const { wants } = fill
  const agrees = fill.method.isCopy === true && mend.finish.agree > 0
  const besideFrames = Math.max(wants?.besideFrames ?? 0, agrees ? AGREE_FRAMES : 0)
  const { firstFrame, lastFrame } = span
  const isInSpan = (other: Frame) => other >= firstFrame && other <= lastFrame
  const look = (other: Frame, purpose: PlacedLook['purpose'], shapes: readonly PlacedShape[]): PlacedLook => ({
    frame: other,
    purpose,
    shapes,
    groundFromHere: groundMotion(area, stack, frame, other),
    areaFromHere: areaMotion(area, tracks, frame, other),
    sourceFromTarget: usesSource(mend) ? sourceFromTarget(mend.source!, area, tracks, other) : null,
  })
  const looks: PlacedLook[] = []
  for (let other = frame - besideFrames; other <= frame + besideFrames; other++) {
    if (other !== frame && isInSpan(other)) looks.push(look(other, 'beside', [placeArea(area, tracks, other)]))
  }
  if (wants?.anchor) {
    const anchor = anchorFrameOf(area, span, mends, tracks)
    looks.push(look(anchor, 'anchor', sweepOf(area, span, stack, anchor)))
  }
  if (wants?.clear && mend.source) {
    for (const other of clearFramesOf(mend, area, span, mends, tracks, frame)) looks.push(look(other, 'clear', [placeArea(area, tracks, other)]))
  }
  if (wants?.gather) looks.push(...gatherLooksOf(area, stack, frame, wants.gather, look))
  if (mend.finish.grain > 0 && !fill.method.keepsThing) {
    for (const other of [frame - 1, frame + 1]) if (isInSpan(other)) looks.push(look(other, 'grain', []))
  }
  return looks
}

function gatherLooksOf(
  area: Area,
  { tracks, plate, scene }: Stack,
  frame: Frame,
  { before, after, every }: FramesWanted,
  look: (other: Frame, purpose: FramePurpose, shapes: readonly PlacedShape[]) => PlacedLook,
): PlacedLook[] {
  const looks: PlacedLook[] = []
  for (let other = Math.max(plate.firstFrame, frame - before); other <= Math.min(plate.lastFrame, frame + after); other++) {
    if (other === frame || (other - plate.firstFrame) % every !== 0) continue
    const plain = look(other, 'gather', [])
    if (!scene) {
      looks.push({ ...plain, layersFromHere: [plain.groundFromHere] })
      continue
    }
    const layersFromHere = scene.layers.map((_, layer) => motionBetween(scene, layer, frame, other))
    looks.push({ ...plain, layersFromHere, layerMap: layersNear(scene, area, tracks, frame, layersFromHere[0]) })
  }
  return looks
}

/** How the ground moves from one frame to another: with the track that the area follows; else as the scene does there. */
function groundMotion(area: Area, { tracks, scene }: Stack, from: Frame, to: Frame): Matrix3 {
  const track = area.shape === 'matte' ? null : trackOf(area, tracks)
  if (!track || track.kind === 'cling') return scene ? motionBetween(scene, layerOf(scene, area, tracks, from), from, to) : IDENTITY
  const [there, here] = [trackMotionAt(track, to), trackMotionAt(track, from)]
  const back = here && invert(here)
  return there && back ? compose(there, back) : IDENTITY
}

/** The layer that most of an area's surroundings belong to. Asked for many times of the same area: kept with it. */
function layerOf(scene: Scene, area: Area, tracks: Tracks, frame: Frame): number {
  if (!scene.cells) return 0
  let kept = layersOfAreas.get(area)
  if (!kept || kept.scene !== scene || kept.tracks !== tracks) layersOfAreas.set(area, (kept = { scene, tracks, byFrame: new Map<Frame, number>() }))
  let layer = kept.byFrame.get(frame)
  if (layer === undefined) kept.byFrame.set(frame, (layer = mostSeenLayer(scene, area, tracks, frame)))
  return layer
}

const layersOfAreas = new WeakMap<Area, { readonly scene: Scene; readonly tracks: Tracks; readonly byFrame: Map<Frame, number> }>()

function mostSeenLayer(scene: Scene, area: Area, tracks: Tracks, frame: Frame): number {
  const map = layersNear(scene, area, tracks, frame)
  const counts = new Map<number, number>()
  for (const label of map?.labels ?? []) if (label !== NO_LAYER) counts.set(label, (counts.get(label) ?? 0) + 1)
  let [best, most] = [0, 0]
  for (const [layer, count] of counts) if (count > most) [best, most] = [layer, count]
  return best
}

function areaMotion(area: Area, tracks: Tracks, from: Frame, to: Frame): Matrix3 {
  const [a, b] = [middleOfShape(placeArea(area, tracks, from)), middleOfShape(placeArea(area, tracks, to))]
  return translationBy(b.x - a.x, b.y - a.y)
}

export function middleOfShape(shape: PlacedShape): { readonly x: number; readonly y: number } {
  if (shape.shape === 'matte') return { x: 0, y: 0 }
  const points =
    shape.shape === 'path'
      ? shape.points
      : Array.from({ length: shape.polygon.length / 2 }, (_, i) => ({ x: shape.polygon[2 * i]!, y: shape.polygon[2 * i + 1]! }))
  return { x: points.reduce((sum, point) => sum + point.x, 0) / points.length, y: points.reduce((sum, point) => sum + point.y, 0) / points.length }
}

const MOST_SWEPT = 64 // shapes: of a longer course every n-th is taken

/** All that an area covers during its span, carried by the ground to one frame. Shapes that coincide count once. */
function sweepOf(area: Area, { firstFrame, lastFrame }: FrameRange, stack: Stack, anchor: Frame): PlacedShape[] {
  const { tracks } = stack
  if (area.shape === 'matte') return [placeArea(area, tracks, anchor)]
  const step = Math.max(1, Math.ceil((lastFrame - firstFrame + 1) / MOST_SWEPT))
  const shapes = new Map<string, PlacedShape>()
  const add = (frame: Frame) => {
    const carried = carriedShape(placeArea(area, tracks, frame), groundMotion(area, stack, frame, anchor))
    const key = JSON.stringify(carried, (_, value: unknown) => (typeof value === 'number' ? Math.round(value * 4) : value)) // quarter pixels
    if (!shapes.has(key)) shapes.set(key, carried)
  }
  add(anchor)
  for (let frame = firstFrame; frame <= lastFrame; frame += step) add(frame)
  add(lastFrame)
  return [...shapes.values()]
}

function carriedShape(shape: PlacedShape, by: Matrix3): PlacedShape {
  if (shape.shape === 'matte' || by === IDENTITY) return shape
  if (shape.shape === 'closed') return { shape: 'closed', polygon: movedPolygon(shape.polygon, by) }
  return { shape: 'path', points: shape.points.map((point) => ({ ...point, ...apply(by, point.x, point.y) })) }
}

const AROUND_PX = 48

/**
 * The frame on which what holds for the whole span is worked out: where holdouts hide least of the area's
 * surroundings; of those the one nearest the middle of the span.
 */
export function anchorFrameOf(area: Area, { firstFrame, lastFrame }: FrameRange, mends: readonly Mend[], tracks: Tracks): Frame {
  const middle = Math.floor((firstFrame + lastFrame) / 2)
  let [best, least] = [middle, Infinity]
  for (let away = 0; away <= lastFrame - firstFrame; away++) {
    for (const frame of away === 0 ? [middle] : [middle - away, middle + away]) {
      if (frame < firstFrame || frame > lastFrame) continue
      const bounds = boundsOfShape(placeArea(area, tracks, frame))
      const held = bounds ? heldOf(growRect(bounds, AROUND_PX), mends, tracks, frame) : 0
      if (held < least) [best, least] = [frame, held]
    }
    if (least === 0) break
  }
  return best
}

/** The nearest frames of the span, before and after, on which no holdout lies over the source; none while it is clear. */
function clearFramesOf(mend: Mend, area: Area, { firstFrame, lastFrame }: FrameRange, mends: readonly Mend[], tracks: Tracks, frame: Frame): Frame[] {
  const isHeld = (at: Frame): boolean => {
    const bounds = boundsOfShape(placeArea(area, tracks, at))
    if (!bounds || !mend.source) return false
    const { x, y } = apply(sourceFromTarget(mend.source, area, tracks, at), bounds.col + bounds.width / 2, bounds.row + bounds.height / 2)
    const reach = Math.ceil(0.75 * Math.max(bounds.width, bounds.height) * (mend.source.keys[0]?.scale ?? 1)) + 4
    const around = { col: Math.floor(x) - reach, row: Math.floor(y) - reach, width: 2 * reach, height: 2 * reach }
    return heldOf(around, mends, tracks, at) > 0
  }
  if (!isHeld(frame)) return []
  const found: Frame[] = []
  for (let at = frame - 1; at >= firstFrame; at--) {
    if (isHeld(at)) continue
    found.push(at)
    break
  }
  for (let at = frame + 1; at <= lastFrame; at++) {
    if (isHeld(at)) continue
    found.push(at)
    break
  }
  return found
}

/** How many pixels of a rectangle the boxes of all holdouts cover on a frame. */
function heldOf(rect: Rect, mends: readonly Mend[], tracks: Tracks, frame: Frame): number {
  let held = 0
  for (const mend of mends) {
    if (!isActiveAt(mend, frame)) continue
    for (const area of mend.areas) {
      if (area.role !== 'holdout') continue
      const bounds = boundsOfShape(placeArea(area, tracks, frame))
      const shared = bounds && intersectRects(bounds, rect)
      if (shared) held += shared.width * shared.height
    }
  }
  return held
}
