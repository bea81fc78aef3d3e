/** Which other frames an area is looked at on, and what it is like there. */
import type { Area } from '../document/areas'
import type { FramePurpose, FramesWanted, OtherFrame } from '../fill/method'
import { sourceFromTarget } from '../document/sourceKeys'
import { apply, IDENTITY, translationBy, type Matrix3 } from '../geometry/transform'
import { growRect, intersectRects, type Rect } from '../image/rect'
import { motionsBetween } from '../scene/scene'
import type { Frame, FrameRange } from '../time'
import type { FrameTable } from './frameTable'
import { groundMotion } from './groundMotion'
import { movedPolygon, placeArea, type PlacedArea, type PlacedShape } from './placedArea'
import { framesGathered, type PlannedMend } from './plannedMend'
import type { ShotDocument } from './shotDocument'

/** What an area is like on another frame that its fill or its finish looks at. */
export interface FrameRequest extends Omit<OtherFrame, 'purpose' | 'layerMap'> {
  readonly purpose: FramePurpose | 'grain'
  /** The area there; for an anchor all that it covers during its span, as seen from there. None for grain and gathering. */
  readonly shapes: readonly RequestedShape[]
  /** Where it gathers: with all that the mend itself covers there. */
  readonly isOpen?: boolean
  readonly sourceFromTarget: Matrix3 | null
}

/** A shape, and what tells it from others: worked out when it is asked for. */
export type RequestedShape = Pick<PlacedArea, 'shape' | 'digest'>

/** What requests are made of. */
export interface RequestContext {
  readonly document: ShotDocument
  readonly mend: PlannedMend
  readonly params: Record<string, unknown>
  /** The areas of a placement: one, or several of a series. */
  readonly areas: readonly Area[]
  readonly frame: Frame
  tableAt(frame: Frame): FrameTable
}

/** Frames to either side over which colour agreement is averaged. */
const AGREE_FRAMES = 2

export function requestsOf(context: RequestContext): FrameRequest[] {
  const { mend, params, document, frame } = context
  const { method, finish } = mend
  if (!method) return []
  const span = within(mend.span, document.plate)
  const isInSpan = (other: Frame) => isWithin(span, other)
  // Only where it is there itself need a stroke be steady.
  const isThere = (other: Frame) => isInSpan(other) && (!mend.strokeSpan || isWithin(mend.strokeSpan, other))
  const wants = method.steady?.wants(params)
  const agrees = method.isCopy === true && finish.agree > 0
  const besideFrames = Math.max(wants?.besideFrames ?? 0, agrees ? AGREE_FRAMES : 0)
  const requests: FrameRequest[] = []
  for (let other = frame - besideFrames; other <= frame + besideFrames; other++) {
    if (other !== frame && isThere(other)) requests.push(placedOn(context, other, 'beside'))
  }
  if (wants?.anchor) requests.push(anchorRequest(context, span))
  if (wants?.clear && mend.source) {
    for (const other of clearFramesOf(context, span)) requests.push(placedOn(context, other, 'clear'))
  }
  const gathers = framesGathered(mend, frame, document.plate)
  if (gathers) requests.push(...gatherRequests(context, gathers))
  if (finish.grain > 0 && !method.keepsThing) {
    for (const other of [frame - 1, frame + 1])
      if (isInSpan(other)) requests.push(requestOn(context, other, 'grain', []))
  }
  return requests
}

function requestOn(
  { document, mend, areas, frame }: RequestContext,
  other: Frame,
  purpose: FrameRequest['purpose'],
  shapes: readonly RequestedShape[],
): FrameRequest {
  const [area] = areas as [Area]
  return {
    frame: other,
    purpose,
    shapes,
    groundFromHere: groundMotion(area, document, frame, other),
    areaFromHere: areaMotion(area, document, frame, other),
    sourceFromTarget:
      mend.usesSource && mend.source ? sourceFromTarget(mend.source, area, document.tracks, other) : null,
  }
}

/** With the areas as they are there. */
function placedOn(context: RequestContext, other: Frame, purpose: FramePurpose): FrameRequest {
  const placed = context.areas.map((area) => placeArea(area, context.document.tracks, other))
  return requestOn(context, other, purpose, placed)
}

function gatherRequests(context: RequestContext, { frames, motion }: FramesWanted): FrameRequest[] {
  const { document, frame } = context
  return frames.map((other) => {
    const plain = requestOn(context, other, 'gather', [])
    if (motion === 'none') return { ...plain, layersFromHere: [IDENTITY], isOpen: true }
    const { scene } = document
    return { ...plain, layersFromHere: scene ? motionsBetween(scene, frame, other) : [plain.groundFromHere] }
  })
}

function areaMotion(area: Area, { tracks }: ShotDocument, from: Frame, to: Frame): Matrix3 {
  const [here, there] = [placeArea(area, tracks, from), placeArea(area, tracks, to)]
  if (here === there) return IDENTITY
  return translationBy(there.middle.x - here.middle.x, there.middle.y - here.middle.y)
}

const MAX_SWEPT = 64 // shapes: of a longer course every n-th is taken
const SAME_PX = 0.25 // shapes that lie so near to each other count once

/** All that an area covers during its span, carried by the ground to the frame on which that is looked at. */
function anchorRequest(context: RequestContext, span: FrameRange): FrameRequest {
  const { document, areas } = context
  const [area] = areas as [Area]
  const anchor = anchorFrameOf(area, span, context)
  const step = Math.max(1, Math.ceil((span.lastFrame - span.firstFrame + 1) / MAX_SWEPT))
  const shapes = new Map<string, RequestedShape>()
  const add = (frame: Frame) => {
    const placed = placeArea(area, document.tracks, frame)
    const by = groundMotion(area, document, frame, anchor)
    const shape = carriedShape(placed.shape, by)
    const key = roughly(shape)
    if (!shapes.has(key)) shapes.set(key, new CarriedShape(shape, placed, by))
  }
  add(anchor)
  if (area.shape !== 'matte') {
    for (let frame = span.firstFrame; frame <= span.lastFrame; frame += step) add(frame)
    add(span.lastFrame)
  }
  return requestOn(context, anchor, 'anchor', [...shapes.values()])
}

class CarriedShape implements RequestedShape {
  readonly shape: PlacedShape
  readonly #placed: PlacedArea
  readonly #by: Matrix3

  constructor(shape: PlacedShape, placed: PlacedArea, by: Matrix3) {
    this.shape = shape
    this.#placed = placed
    this.#by = by
  }

  get digest(): string {
    return `${this.#placed.digest} ${this.#by.join(' ')}`
  }
}

function roughly(shape: PlacedShape): string {
  if (shape.shape === 'matte') return shape.pattern
  const numbers =
    shape.shape === 'closed' ? shape.polygon : shape.points.flatMap(({ x, y, widthPx }) => [x, y, widthPx])
  return numbers.map((value) => Math.round(value / SAME_PX)).join(' ')
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
function anchorFrameOf(area: Area, { firstFrame, lastFrame }: FrameRange, context: RequestContext): Frame {
  const middle = Math.floor((firstFrame + lastFrame) / 2)
  let [best, min] = [middle, Infinity]
  for (let away = 0; away <= lastFrame - firstFrame && min > 0; away++) {
    for (const frame of away === 0 ? [middle] : [middle - away, middle + away]) {
      if (frame < firstFrame || frame > lastFrame) continue
      const { box } = placeArea(area, context.document.tracks, frame)
      const count = box ? holdoutPixelCount(growRect(box, AROUND_PX), context.tableAt(frame)) : 0
      if (count < min) [best, min] = [frame, count]
    }
  }
  return best
}

/** The nearest frames of the span, before and after, on which no holdout lies over the source; none while it is clear. */
function clearFramesOf(context: RequestContext, { firstFrame, lastFrame }: FrameRange): Frame[] {
  const { frame } = context
  if (!isSourceHeldOut(context, frame)) return []
  const found: Frame[] = []
  for (const step of [-1, 1]) {
    for (let at = frame + step; at >= firstFrame && at <= lastFrame; at += step) {
      if (isSourceHeldOut(context, at)) continue
      found.push(at)
      break
    }
  }
  return found
}

function isSourceHeldOut({ document, mend, areas, tableAt }: RequestContext, frame: Frame): boolean {
  const [area] = areas as [Area]
  const { box } = placeArea(area, document.tracks, frame)
  if (!box || !mend.source) return false
  const { x, y } = apply(
    sourceFromTarget(mend.source, area, document.tracks, frame),
    box.col + box.width / 2,
    box.row + box.height / 2,
  )
  const reach = Math.ceil(0.75 * Math.max(box.width, box.height) * (mend.source.keys[0]?.scale ?? 1)) + 4
  const around = {
    col: Math.floor(x) - reach,
    row: Math.floor(y) - reach,
    width: 2 * reach,
    height: 2 * reach,
  }
  return holdoutPixelCount(around, tableAt(frame)) > 0
}

/** How many pixels of a rectangle the boxes of all holdouts cover on a frame. */
function holdoutPixelCount(rect: Rect, table: FrameTable): number {
  let pixels = 0
  for (const { isHoldout, placed } of table.near(rect)) {
    const shared = isHoldout && placed.box ? intersectRects(placed.box, rect) : null
    if (shared) pixels += shared.width * shared.height
  }
  return pixels
}

const isWithin = ({ firstFrame, lastFrame }: FrameRange, frame: Frame): boolean =>
  frame >= firstFrame && frame <= lastFrame

const within = (span: FrameRange, plate: FrameRange): FrameRange => ({
  firstFrame: Math.max(span.firstFrame, plate.firstFrame),
  lastFrame: Math.min(span.lastFrame, plate.lastFrame),
})
