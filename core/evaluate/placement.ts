/** A placement with what was read for it: its shapes, and the rectangles that it writes and reads. */
import type { PathCurve } from '../geometry/pathCurve'
import { invert } from '../geometry/transform'
import { growRect, intersectRects, uniteRects, wholePicture, type Rect } from '../image/rect'
import { outerPxOf } from '../matte/edge'
import { MENDED, NEVER, type FillMethod } from '../fill/method'
import { rectThrough } from '../plan/boxes'
import type { TableArea } from '../plan/frameTable'
import type { PlannedPlacement } from '../plan/planFrame'
import type { PlateShape } from '../shot/clip'
import { isSameThing, boundsOf, type TabooShape } from './coverage'
import type { ReadShape } from './readShape'
import type { MendNote } from './evaluatedFrame'
import { curveOf } from './shapeMask'
import type { ShapeReader } from './shapeReader'

/** Plate around the area in which its grain, its rim and its colour are measured. */
export const RING_PX = 12
/** Differences of neighbours are measured on it. */
const MEASURE_PX = 3

export interface Placement extends PlannedPlacement {
  readonly method: FillMethod
  /** Its areas as they were read: one, or several of a series. */
  readonly shapes: readonly ReadShape[]
  /** Of a path area, its centreline. */
  readonly curve: PathCurve | null
  readonly heldOut: readonly ReadShape[]
  /** What the fill must keep away from on this frame. */
  readonly taboo: readonly TabooShape[]
  /** How far outside the coverage entries of the field are wanted, px. */
  readonly ringPx: number
  /** How far outside it some of the pixels are wanted, to register frames by; 0: none are. */
  readonly aroundPx: number
  readonly marginPx: number
  /** From the drawn edge to where coverage ends, and from the centreline of a path. */
  readonly outerPx: number
  /** Pixels it may change. */
  readonly writeRect: Rect
  /** Pixels it looks at. */
  readonly readRect: Rect
  /** Pixels that it copies from, on this frame. */
  readonly sourceRect: Rect | null
  /** All of the canvas that it looks at: what mends before have laid there is what it sees. */
  readonly lookRect: Rect
}

/** @returns null where nothing can be filled: a note says why. */
export async function placeOne(
  planned: PlannedPlacement,
  frame: number,
  reader: ShapeReader,
  plate: PlateShape,
  notes: MendNote[],
): Promise<Placement | null> {
  const { mend, params, covers } = planned
  const shapes = await reader.all(
    covers.map(({ placed }) => placed.shape),
    frame,
  )
  if (shapes.length === 0) return null
  const method = usable(planned, shapes, notes)
  if (!method) return null
  const [first] = shapes
  const curve = first?.shape === 'path' ? curveOf(first.points) : null
  const outerPx = Math.max(0, (curve ? maxOf(curve.widths) / 2 : 0) + outerPxOf(mend.finish))
  const whole = wholePicture(plate)
  const drawn = shapes.map((shape) => boundsOf(shape)).reduce(uniteRects)
  const writeRect = intersectRects(growRect(drawn, Math.ceil(outerPx) + 1), whole)
  if (!writeRect) {
    notes.push({
      mendId: mend.id,
      reason: 'outside-picture',
      detail: 'The area lies outside the picture.',
    })
    return null
  }
  const reach = method.reach(params, curve ? outerPx : 0)
  const ringPx = Math.max(RING_PX, Math.ceil(reach.ringPx ?? 0))
  const sizes = { ringPx, aroundPx: Math.ceil(reach.aroundPx ?? 0), marginPx: reach.marginPx, outerPx }
  const heldOut = await reader.all(
    planned.holdouts.map(({ placed }) => placed.shape),
    frame,
  )
  const taboo = await tabooShapes(planned, shapes, frame, reader)
  const rects = await rectsOf(planned, { ...sizes, writeRect }, whole, reader)
  return { ...planned, ...sizes, ...rects, method, shapes, curve, heldOut, taboo, writeRect }
}

function usable({ mend }: PlannedPlacement, shapes: readonly ReadShape[], notes: MendNote[]) {
  const { method } = mend
  if (!method) {
    notes.push({
      mendId: mend.id,
      reason: 'unknown-fill',
      detail: `There is no fill "${mend.fill.methodId}".`,
    })
    return null
  }
  if (method.needsPath && shapes[0]!.shape !== 'path') {
    notes.push({
      mendId: mend.id,
      reason: 'needs-path',
      detail: `${method.title} works along a path. Choose another fill for this area, or draw a path.`,
    })
    return null
  }
  return method
}

/** Other mends and holdouts that lie near on this frame; a mend that hands over to this one is none of them. */
async function tabooShapes(
  { mend, covers, others }: PlannedPlacement,
  own: readonly ReadShape[],
  frame: number,
  reader: ShapeReader,
): Promise<TabooShape[]> {
  const out: TabooShape[] = []
  for (const other of others) {
    const [shape] = await reader.all([other.placed.shape], frame)
    if (!shape) continue
    if (!other.isHoldout && other.mend.id !== mend.id && own.some((one) => isSameThing(one, shape))) continue
    out.push({ shape, edge: edgeHere(other), level: levelOf(other, covers[0]!) })
  }
  return out
}

/** On its own frame what looks for the thing outside its area is as large as that. */
const edgeHere = (other: TableArea) => (other.isHoldout ? other.edge : other.mend.finish)

const levelOf = (other: TableArea, own: TableArea): TabooShape['level'] =>
  !other.isHoldout && other.stackIndex < own.stackIndex ? MENDED : NEVER

async function rectsOf(
  { mend, requests, sourceFromTarget }: PlannedPlacement,
  {
    ringPx,
    aroundPx,
    marginPx,
    writeRect,
  }: Pick<Placement, 'ringPx' | 'aroundPx' | 'marginPx' | 'writeRect'>,
  whole: Rect,
  reader: ShapeReader,
) {
  const { grain, grainFrom } = mend.finish
  const carryPx = grain > 0 && grainFrom === 'carried' ? Math.max(writeRect.width, writeRect.height) + 8 : 0
  const margin = Math.max(marginPx, aroundPx, ringPx + MEASURE_PX, carryPx)
  let readRect = intersectRects(growRect(writeRect, Math.ceil(margin)), whole)!
  for (const request of requests) {
    if (request.purpose !== 'anchor') continue
    const shapes = await reader.all(
      request.shapes.map(({ shape }) => shape),
      request.frame,
    )
    const back = invert(request.groundFromHere)
    if (!back || shapes.length === 0) continue
    // What was worked out on an anchor frame may lead anywhere that was looked at there.
    const there = shapes.map((shape) => boundsOf(shape)).reduce(uniteRects)
    const around = marginPx + Math.ceil(Math.max(0, outerPxOf(mend.finish)))
    const seen = rectThrough(back, growRect(there, around), whole)
    if (seen) readRect = uniteRects(readRect, seen)
  }
  const sourceRect = sourceFromTarget
    ? rectThrough(sourceFromTarget, growRect(writeRect, ringPx), whole)
    : null
  // A stroke copies what has been painted so far, however far off.
  if (mend.strokeSpan)
    return { readRect, sourceRect, lookRect: sourceRect ? uniteRects(readRect, sourceRect) : readRect }
  if (sourceRect) readRect = withSource(readRect, sourceRect, writeRect, whole)
  return { readRect, sourceRect, lookRect: readRect }
}

const NEXT_TO = 12 // a rectangle for both may be so many times the area's own
const AROUND_SOURCE_PX = 24

/** Whether a copy shows as one can be told only when both places, and something to compare with, are in sight. */
function withSource(rect: Rect, sourceRect: Rect, writeRect: Rect, whole: Rect): Rect {
  const both = intersectRects(growRect(uniteRects(rect, sourceRect), AROUND_SOURCE_PX), whole)!
  return both.width * both.height <= NEXT_TO * (writeRect.width + 32) * (writeRect.height + 32) ? both : rect
}

const maxOf = (values: Float64Array): number => values.reduce((max, value) => Math.max(max, value), 0)

/** Mends that look at each other's pixels share a rectangle; the order within a group is the stack's. */
export function groupOverlapping(placements: readonly Placement[]): Placement[][] {
  let groups: { rect: Rect; members: Placement[] }[] = []
  for (const placement of placements) {
    let rect = placement.lookRect
    const members = [placement]
    let hasGrown = true
    while (hasGrown) {
      hasGrown = false
      const apart: typeof groups = []
      for (const group of groups) {
        if (!intersectRects(group.rect, rect)) {
          apart.push(group)
          continue
        }
        rect = uniteRects(group.rect, rect)
        members.push(...group.members)
        hasGrown = true
      }
      groups = apart
    }
    groups.push({ rect, members })
  }
  return groups.map(({ members }) =>
    members.sort((a, b) => a.covers[0]!.stackIndex - b.covers[0]!.stackIndex),
  )
}
