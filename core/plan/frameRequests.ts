/** Which other frames a cover is looked at on, and what it is like there. */
import type { FramePurpose, FramesWanted, OtherFrame } from '../fill/method'
import { findFill } from '../fill/registry'
import { apply, IDENTITY, translationBy, type Matrix3 } from '../geometry/transform'
import { growRect, intersectRects, type Rect } from '../image/rect'
import { motionBetween } from '../scene/scene'
import type { Frame, FrameRange } from '../time'
import type { Area } from '../document/areas'
import { type Stack, layersNear, groundMotion } from './groundMotion'
import { type PlacedShape, isActiveAt, placeArea, movedPolygon, middleOfShape } from './placedArea'
import type { Mend } from '../document/mend'
import { boundsOfShape } from './shapeBounds'
import { sourceFromTarget } from '../document/sourceKeys'
import type { Tracks } from '../document/tracks'

/** What a cover is like on another frame that its fill or its finish looks at. */
export interface PlacedLook extends Omit<OtherFrame, 'purpose'> {
  readonly purpose: FramePurpose | 'grain'
  /** The area there; for an anchor all that it covers during its span, as seen from there. None for grain. */
  readonly shapes: readonly PlacedShape[]
  /** Where it gathers: with all that the mend itself covers there. */
  readonly isOpen?: boolean
  readonly sourceFromTarget: Matrix3 | null
}

export const paramsOf = (mend: Mend) => {
  const method = findFill(mend.fill.methodId)
  if (!method) return null
  const params = method.params.parse(mend.fill.params)
  return { method, params, wants: method.steady?.wants(params) }
}

/** The frames that a mend gathers from on a frame; undefined where it gathers from none. */
export function gatheredFrames(mend: Mend, frame: Frame, plate: FrameRange): FramesWanted | undefined {
  const fill = paramsOf(mend)
  return fill?.method.steady?.gathers?.(fill.params, frame, plate)
}

export const usesSource = (mend: Mend): boolean => {
  const fill = paramsOf(mend)
  return mend.source !== null && fill?.method.needsSource?.(fill.params) === true
}

/** Frames to either side over which colour agreement is averaged. */
const AGREE_FRAMES = 2

export function looksOf(mend: Mend, area: Area, stack: Stack, frame: Frame, span: FrameRange): PlacedLook[] {
  const { mends, tracks } = stack
  const fill = paramsOf(mend)
  if (!fill) return []
  const { wants } = fill
  const agrees = fill.method.isCopy === true && mend.finish.agree > 0
  const besideFrames = Math.max(wants?.besideFrames ?? 0, agrees ? AGREE_FRAMES : 0)
  const { firstFrame, lastFrame } = span
  const isInSpan = (other: Frame) => other >= firstFrame && other <= lastFrame
  const look = (
    other: Frame,
    purpose: PlacedLook['purpose'],
    shapes: readonly PlacedShape[],
  ): PlacedLook => ({
    frame: other,
    purpose,
    shapes,
    groundFromHere: groundMotion(area, stack, frame, other),
    areaFromHere: areaMotion(area, tracks, frame, other),
    sourceFromTarget: usesSource(mend) ? sourceFromTarget(mend.source!, area, tracks, other) : null,
  })
  const looks: PlacedLook[] = []
  for (let other = frame - besideFrames; other <= frame + besideFrames; other++) {
    if (other !== frame && isInSpan(other))
      looks.push(look(other, 'beside', [placeArea(area, tracks, other)]))
  }
  if (wants?.anchor) {
    const anchor = anchorFrameOf(area, span, mends, tracks)
    looks.push(look(anchor, 'anchor', sweepOf(area, span, stack, anchor)))
  }
  if (wants?.clear && mend.source) {
    for (const other of clearFramesOf(mend, area, span, mends, tracks, frame))
      looks.push(look(other, 'clear', [placeArea(area, tracks, other)]))
  }
  const gathers = fill.method.steady?.gathers?.(fill.params, frame, stack.plate)
  if (gathers) looks.push(...gatherLooksOf(area, stack, frame, gathers, look))
  if (mend.finish.grain > 0 && !fill.method.keepsThing) {
    for (const other of [frame - 1, frame + 1]) if (isInSpan(other)) looks.push(look(other, 'grain', []))
  }
  return looks
}

function gatherLooksOf(
  area: Area,
  { tracks, scene }: Stack,
  frame: Frame,
  { frames, motion }: FramesWanted,
  look: (other: Frame, purpose: FramePurpose, shapes: readonly PlacedShape[]) => PlacedLook,
): PlacedLook[] {
  return frames.map((other) => {
    const plain = look(other, 'gather', [])
    if (motion === 'none') return { ...plain, layersFromHere: [IDENTITY], isOpen: true }
    if (!scene) return { ...plain, layersFromHere: [plain.groundFromHere] }
    const layersFromHere = scene.layers.map((_, layer) => motionBetween(scene, layer, frame, other))
    return {
      ...plain,
      layersFromHere,
      layerMap: layersNear(scene, area, tracks, frame, { frame: other, fromHere: layersFromHere[0]! }),
    }
  })
}

function areaMotion(area: Area, tracks: Tracks, from: Frame, to: Frame): Matrix3 {
  const [a, b] = [middleOfShape(placeArea(area, tracks, from)), middleOfShape(placeArea(area, tracks, to))]
  return translationBy(b.x - a.x, b.y - a.y)
}

const MAX_SWEPT = 64 // shapes: of a longer course every n-th is taken

/** All that an area covers during its span, carried by the ground to one frame. Shapes that coincide count once. */
function sweepOf(
  area: Area,
  { firstFrame, lastFrame }: FrameRange,
  stack: Stack,
  anchor: Frame,
): PlacedShape[] {
  const { tracks } = stack
  if (area.shape === 'matte') return [placeArea(area, tracks, anchor)]
  const step = Math.max(1, Math.ceil((lastFrame - firstFrame + 1) / MAX_SWEPT))
  const shapes = new Map<string, PlacedShape>()
  const add = (frame: Frame) => {
    const carried = carriedShape(placeArea(area, tracks, frame), groundMotion(area, stack, frame, anchor))
    const key = JSON.stringify(carried, (_, value: unknown) =>
      typeof value === 'number' ? Math.round(value * 4) : value,
    ) // quarter pixels
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
  return {
    shape: 'path',
    points: shape.points.map((point) => ({ ...point, ...apply(by, point.x, point.y) })),
  }
}

const AROUND_PX = 48

/**
 * The frame on which what holds for the whole span is worked out: where holdouts hide least of the area's
 * surroundings; of those the one nearest the middle of the span.
 */
export function anchorFrameOf(
  area: Area,
  { firstFrame, lastFrame }: FrameRange,
  mends: readonly Mend[],
  tracks: Tracks,
): Frame {
  const middle = Math.floor((firstFrame + lastFrame) / 2)
  let [best, min] = [middle, Infinity]
  for (let away = 0; away <= lastFrame - firstFrame; away++) {
    for (const frame of away === 0 ? [middle] : [middle - away, middle + away]) {
      if (frame < firstFrame || frame > lastFrame) continue
      const bounds = boundsOfShape(placeArea(area, tracks, frame))
      const heldOutPixels = bounds ? holdoutPixelCount(growRect(bounds, AROUND_PX), mends, tracks, frame) : 0
      if (heldOutPixels < min) [best, min] = [frame, heldOutPixels]
    }
    if (min === 0) break
  }
  return best
}

/** The nearest frames of the span, before and after, on which no holdout lies over the source; none while it is clear. */
function clearFramesOf(
  mend: Mend,
  area: Area,
  { firstFrame, lastFrame }: FrameRange,
  mends: readonly Mend[],
  tracks: Tracks,
  frame: Frame,
): Frame[] {
  const isHeldOut = (at: Frame): boolean => {
    const bounds = boundsOfShape(placeArea(area, tracks, at))
    if (!bounds || !mend.source) return false
    const { x, y } = apply(
      sourceFromTarget(mend.source, area, tracks, at),
      bounds.col + bounds.width / 2,
      bounds.row + bounds.height / 2,
    )
    const reach =
      Math.ceil(0.75 * Math.max(bounds.width, bounds.height) * (mend.source.keys[0]?.scale ?? 1)) + 4
    const around = {
      col: Math.floor(x) - reach,
      row: Math.floor(y) - reach,
      width: 2 * reach,
      height: 2 * reach,
    }
    return holdoutPixelCount(around, mends, tracks, at) > 0
  }
  if (!isHeldOut(frame)) return []
  const found: Frame[] = []
  for (let at = frame - 1; at >= firstFrame; at--) {
    if (isHeldOut(at)) continue
    found.push(at)
    break
  }
  for (let at = frame + 1; at <= lastFrame; at++) {
    if (isHeldOut(at)) continue
    found.push(at)
    break
  }
  return found
}

/** How many pixels of a rectangle the boxes of all holdouts cover on a frame. */
function holdoutPixelCount(rect: Rect, mends: readonly Mend[], tracks: Tracks, frame: Frame): number {
  let heldOutPixels = 0
  for (const mend of mends) {
    if (!isActiveAt(mend, frame)) continue
    for (const area of mend.areas) {
      if (area.role !== 'holdout') continue
      const bounds = boundsOfShape(placeArea(area, tracks, frame))
      const shared = bounds && intersectRects(bounds, rect)
      if (shared) heldOutPixels += shared.width * shared.height
    }
  }
  return heldOutPixels
}
