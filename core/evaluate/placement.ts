/** One covered area on one frame: what is filled at a time, and all that is read for it. */
import { findFill } from '../fill/registry'
import type { FillMethod } from '../fill/method'
import { createPathCurve, type PathCurve } from '../geometry/pathCurve'
import { invert, type Matrix3 } from '../geometry/transform'
import { growRect, intersectRects, uniteRects, wholePicture, type Rect } from '../image/rect'
import { outerPxOf } from '../matte/edge'
import { boundsOf, isSameThing, type ReadShape, type TabooShape, HARD } from './coverage'
import type { FrameSource, MendNote, PlateShape } from '../shot/clip'
import { MENDED, NEVER } from '../fill/method'
import { boxThrough } from '../plan/shapeBounds'
import type { FramePlan, PlacedCover, PlacedMend } from '../plan/planFrame'
import type { PlacedLook } from '../plan/frameRequests'
import type { PlacedShape } from '../plan/placedArea'

/** Plate around the area in which its grain, its rim and its colour are measured. */
export const RING_PX = 12

export interface Placement {
  readonly mend: PlacedMend
  readonly method: FillMethod
  readonly params: Record<string, unknown>
  readonly cover: PlacedCover
  readonly shape: ReadShape
  readonly curve: PathCurve | null
  readonly holdouts: readonly ReadShape[]
  /** What the fill must keep away from on this frame. */
  readonly otherMends: readonly TabooShape[]
  /** Looks at other frames, their shapes read. */
  readonly looks: readonly ReadLook[]
  /** How far outside the coverage entries of the field are wanted, px. */
  readonly ringPx: number
  /** From the drawn edge to where coverage ends, and from the centreline of a path. */
  readonly outerPx: number
  /** Pixels it may change. */
  readonly writeRect: Rect
  /** Pixels it looks at. */
  readonly readRect: Rect
  /** Pixels that it copies from, on this frame. */
  readonly sourceRect: Rect | null
}

export interface ReadLook extends Omit<PlacedLook, 'shapes'> {
  readonly shapes: readonly ReadShape[]
  readonly otherMends: readonly TabooShape[]
  /** What tells this look from any other, as text. */
  readonly key: string
}

/** Reads each shape once. */
export class ShapeReader {
  readonly #source: FrameSource
  readonly #mattes = new Map<string, Promise<ReadShape | null>>()

  constructor(source: FrameSource) {
    this.#source = source
  }

  async all(shapes: readonly PlacedShape[], frame: number): Promise<ReadShape[]> {
    const read = await Promise.all(shapes.map((shape) => this.#one(shape, frame)))
    return read.filter((shape) => shape !== null)
  }

  async #one(shape: PlacedShape, frame: number): Promise<ReadShape | null> {
    if (shape.shape !== 'matte') return shape
    const key = `${frame} ${shape.pattern}`
    let reading = this.#mattes.get(key)
    if (!reading) {
      reading = this.#source
        .readMatte(shape.pattern, frame)
        .then((matte) => matte && { shape: 'matte', matte })
      this.#mattes.set(key, reading)
    }
    return reading
  }
}

/** Every covered area of a plan, in the order of the stack. */
export async function placeAll(
  plan: FramePlan,
  source: FrameSource,
  notes: MendNote[],
): Promise<Placement[]> {
  const reader = new ShapeReader(source)
  const here = await Promise.all(
    plan.mends.map(async (mend) => ({
      mend,
      holdouts: await reader.all(mend.holdouts, plan.frame),
      covers: await Promise.all(
        mend.covers.map(async (cover) => ({
          cover,
          shape: (await reader.all([cover.shape], plan.frame))[0] ?? null,
        })),
      ),
    })),
  )
  const placements: Placement[] = []
  for (const [index, { mend, holdouts, covers }] of here.entries()) {
    for (const [place, { cover, shape }] of covers.entries()) {
      if (!shape) continue
      const otherMends: TabooShape[] = here.flatMap((other, at) => [
        ...other.holdouts.map((held): TabooShape => ({ shape: held, edge: HARD, level: NEVER })),
        ...other.covers.flatMap((theirs, k): TabooShape[] => {
          if (
            !theirs.shape ||
            (at === index && k === place) ||
            (at !== index && isSameThing(theirs.shape, shape))
          )
            return []
          const isEarlier = at < index || (at === index && k < place)
          return [{ shape: theirs.shape, edge: other.mend.finish, level: isEarlier ? MENDED : NEVER }]
        }),
      ])
      const looks = await Promise.all(cover.looks.map((look) => readLook(look, mend, plan, reader)))
      const placement = placeCover(mend, cover, shape, holdouts, otherMends, looks, source.plate, notes)
      if (placement) placements.push(placement)
    }
  }
  return placements
}

/** Another frame has no mends in it: everything that is covered there still shows. */
async function readLook(
  look: PlacedLook,
  mend: PlacedMend,
  plan: FramePlan,
  reader: ShapeReader,
): Promise<ReadLook> {
  const shapes = await reader.all(look.shapes, look.frame)
  const otherMends: TabooShape[] = []
  if (look.purpose !== 'grain') {
    for (const other of plan.others[look.frame] ?? []) {
      for (const held of await reader.all(other.holdouts, look.frame))
        otherMends.push({ shape: held, edge: HARD, level: NEVER })
      for (const theirs of await reader.all(other.covers, look.frame)) {
        // What is gathered from there is seen through the area: its own thing there is a stranger too.
        const isOwn = other.mendId === mend.id
        if (
          look.isOpen
            ? isOwn
            : look.purpose !== 'gather' && (isOwn || shapes.some((shape) => isSameThing(shape, theirs)))
        )
          continue
        otherMends.push({ shape: theirs, edge: other.finish, level: NEVER })
      }
    }
  }
  const {
    groundFromHere: _ground,
    areaFromHere: _area,
    layersFromHere: _layers,
    layerMap: _map,
    ...rest
  } = look
  const key = JSON.stringify([
    mend.id,
    mend.fill,
    edgeOf(mend),
    rest,
    look.purpose === 'grain' ? null : plan.others[look.frame],
  ])
  return { ...look, shapes, otherMends, key }
}

const edgeOf = ({ finish }: PlacedMend) => [finish.featherInPx, finish.featherOutPx, finish.growPx]

function placeCover(
  mend: PlacedMend,
  cover: PlacedCover,
  shape: ReadShape,
  holdouts: readonly ReadShape[],
  otherMends: readonly TabooShape[],
  looks: readonly ReadLook[],
  plate: PlateShape,
  notes: MendNote[],
): Placement | null {
  const method = findFill(mend.fill.methodId)
  if (!method) {
    notes.push({
      mendId: mend.id,
      reason: 'unknown-fill',
      detail: `There is no fill "${mend.fill.methodId}".`,
    })
    return null
  }
  if (method.needsPath && shape.shape !== 'path') {
    notes.push({
      mendId: mend.id,
      reason: 'needs-path',
      detail: `${method.title} works along a path. Choose another fill for this area, or draw a path.`,
    })
    return null
  }
  const params = method.params.parse(mend.fill.params)
  const curve = shape.shape === 'path' ? createPathCurve(shape.points) : null
  const outerPx = Math.max(0, (curve ? Math.max(...curve.widths) / 2 : 0) + outerPxOf(mend.finish))
  const whole = wholePicture(plate)
  const writeRect = intersectRects(growRect(boundsOf(shape, curve), Math.ceil(outerPx) + 1), whole)
  if (!writeRect) {
    notes.push({ mendId: mend.id, reason: 'outside-picture', detail: 'The area lies outside the picture.' })
    return null
  }
  const reach = method.reach(params, curve ? outerPx : 0)
  const ringPx = Math.max(RING_PX, Math.ceil(reach.ringPx ?? 0))
  const carryPx =
    mend.finish.grain > 0 && mend.finish.grainFrom === 'carried'
      ? Math.max(writeRect.width, writeRect.height) + 8
      : 0
  const near = intersectRects(growRect(writeRect, Math.max(reach.marginPx, ringPx + 3, carryPx)), whole)!
  const readRect = looks
    .filter(({ purpose }) => purpose === 'anchor')
    .reduce((rect, look) => withAnchor(rect, look, reach.marginPx, mend, whole), near)
  const sourceRect = cover.sourceFromTarget
    ? rectThrough(cover.sourceFromTarget, growRect(writeRect, ringPx), whole)
    : null
  const placed = {
    mend,
    method,
    params,
    cover,
    shape,
    curve,
    holdouts,
    otherMends,
    looks,
    ringPx,
    outerPx,
    writeRect,
    sourceRect,
  }
  return { ...placed, readRect: sourceRect ? withSource(readRect, sourceRect, writeRect, whole) : readRect }
}

const NEXT_TO = 12 // a rectangle for both may be so many times the area's own

/** Whether a copy shows as one can be told only when both places, and something to compare with, are in sight. */
function withSource(rect: Rect, sourceRect: Rect, writeRect: Rect, whole: Rect): Rect {
  const both = intersectRects(growRect(uniteRects(rect, sourceRect), AROUND_SOURCE_PX), whole)!
  return both.width * both.height <= NEXT_TO * (writeRect.width + 32) * (writeRect.height + 32) ? both : rect
}

const AROUND_SOURCE_PX = 24

/** What was worked out on an anchor frame may lead anywhere that was looked at there. */
function withAnchor(rect: Rect, look: ReadLook, marginPx: number, mend: PlacedMend, whole: Rect): Rect {
  const back = invert(look.groundFromHere)
  if (!back || look.shapes.length === 0) return rect
  const there = look.shapes.map((shape) => boundsOf(shape, null)).reduce(uniteRects)
  const seen = rectThrough(
    back,
    growRect(there, marginPx + Math.ceil(Math.max(0, outerPxOf(mend.finish)))),
    whole,
  )
  return seen ? uniteRects(rect, seen) : rect
}

const FOOTPRINT_PX = 3

/** The box of a rectangle seen through a transform, as far as it lies in the picture. */
export const rectThrough = (m: Matrix3, rect: Rect, whole: Rect): Rect | null =>
  intersectRects(growRect(boxThrough(m, rect), FOOTPRINT_PX), whole)
