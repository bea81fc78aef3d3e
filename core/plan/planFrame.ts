/**
 * A frame planned: keys and tracks worked out, what each mend looks at elsewhere, and what lies in the way there. Nothing
 * is read for it, and it holds shapes by reference: planning a frame costs what has changed since the last one.
 */
import { rampAt } from '../document/span'
import { sourceFromTarget } from '../document/sourceKeys'
import type { MarkWanted, StillWanted } from '../fill/method'
import type { Matrix3, Place } from '../geometry/transform'
import { growRect, intersectRects, uniteRects, wholePicture, type Rect } from '../image/rect'
import type { Scene } from '../scene/scene'
import type { Frame } from '../time'
import { rectThrough, rectThroughAll } from './boxes'
import { requestsOf, type FrameRequest, type RequestContext } from './frameRequests'
import { frameTable, type FrameTable, type TableArea } from './frameTable'
import { groundMotion } from './groundMotion'
import { placeArea } from './placedArea'
import { paramsAt, type PlannedMend } from './plannedMend'
import { seriesOf } from './series'
import type { ShotDocument } from './shotDocument'

export interface PlannedStill extends Pick<StillWanted, 'of' | 'corners'> {
  /** How the ground moves to the frame on which it was placed; null where it rests. */
  readonly groundToIt: Matrix3 | null
}

/** A request with what covers something there. */
export interface PlannedRequest extends FrameRequest {
  readonly masked: readonly TableArea[]
}

/** One area of a mend on a frame, or several of a series that are filled at once. */
export interface PlannedPlacement {
  readonly mend: PlannedMend
  readonly params: Record<string, unknown>
  /** Strength and ramp together, above 0. */
  readonly share: number
  readonly covers: readonly TableArea[]
  readonly holdouts: readonly TableArea[]
  /** Areas of this frame that lie near, its own left out. */
  readonly others: readonly TableArea[]
  readonly sourceFromTarget: Matrix3 | null
  /** The fill's own picture. */
  readonly still: PlannedStill | null
  /** The picture of the mark that the fill takes off, where it lies here. */
  readonly mark: Omit<MarkWanted, 'on'> | null
  readonly requests: readonly PlannedRequest[]
}

export interface FramePlan {
  readonly frame: Frame
  readonly placements: readonly PlannedPlacement[]
  /** What layers of the frames are told from. */
  readonly scene: Scene | null
}

/** Frames whose areas are kept placed. */
const MAX_TABLES = 512
const tables = new WeakMap<ShotDocument, Map<Frame, FrameTable>>()

/** All areas of a frame; those of a document's frames that were asked for last are kept. */
export function tableOf(document: ShotDocument, frame: Frame): FrameTable {
  let known = tables.get(document)
  if (!known) tables.set(document, (known = new Map<Frame, FrameTable>()))
  let table = known.get(frame)
  if (table) return table
  table = frameTable(document, frame)
  if (known.size >= MAX_TABLES) known.delete(known.keys().next().value!)
  known.set(frame, table)
  return table
}

export function planFrame(document: ShotDocument, frame: Frame): FramePlan {
  const { areas } = tableOf(document, frame)
  const heldOut = new Map<string, TableArea[]>()
  for (const area of areas)
    if (area.isHoldout) heldOut.set(area.mend.id, [...(heldOut.get(area.mend.id) ?? []), area])
  const placements = runsOf(areas).flatMap((own) => planMend(document, frame, own[0]!.mend, own, heldOut))
  return { frame, placements, scene: document.scene }
}

/** Covers that belong to one mend, or to strokes alike that follow each other: what comes between them is laid between them. */
function runsOf(areas: readonly TableArea[]): TableArea[][] {
  const runs: TableArea[][] = []
  for (const area of areas) {
    if (area.isHoldout) continue
    const last = runs.at(-1)
    if (last?.[0]!.mend === area.mend) last.push(area)
    else runs.push([area])
  }
  return runs
}

function planMend(
  document: ShotDocument,
  frame: Frame,
  mend: PlannedMend,
  covers: readonly TableArea[],
  heldOut: ReadonlyMap<string, readonly TableArea[]>,
): PlannedPlacement[] {
  const holdouts = heldOut.get(mend.id) ?? []
  const params = paramsAt(mend, frame)
  const own = mend.strokeSpan ? rampAt(mend.strokeSpan, frame) : 1
  const strength = mend.finish.strength * rampAt(mend.span, frame) * own
  const visible = covers.filter(({ placed }) => placed.visibility > 0)
  return seriesOf(mend, visible).map((together) => {
    const context: RequestContext = {
      document,
      mend,
      params,
      areas: together.map(({ placed }) => placed.area),
      frame,
      tableAt: (other) => tableOf(document, other),
    }
    const { area, visibility } = together[0]!.placed
    const share = strength * visibility
    const placement = {
      mend,
      params,
      share,
      covers: together,
      holdouts,
      sourceFromTarget:
        mend.usesSource && mend.source ? sourceFromTarget(mend.source, area, document.tracks, frame) : null,
      still: planStill(context),
      mark: planMark(context),
    }
    const rect = reachOf(placement, wholePicture(document.plate))
    return {
      ...placement,
      others: rect
        ? tableOf(document, frame)
            .near(rect)
            .filter((one) => one.isTrouble && !together.includes(one) && !isPainted(one, together[0]!))
        : [],
      requests: requestsOf(context).map((request) => withMasked(context, request, rect)),
    }
  })
}

/** A painter sees what lies beneath as it is by now, and nothing of what is painted later. */
const isPainted = (other: TableArea, { mend, stackIndex }: TableArea): boolean =>
  mend.strokeSpan !== null &&
  !other.isHoldout &&
  (other.stackIndex < stackIndex || other.mend.strokeSpan !== null)

/** A fill's own picture on a frame. One of a frame that the plate does not have is none. */
function planStill({ document, mend, params, areas, frame }: RequestContext): PlannedStill | null {
  const wanted = mend.method?.needsStill?.(params)
  const { firstFrame, lastFrame } = document.plate
  const isHad = (at: Frame) => at >= firstFrame && at <= lastFrame
  if (!wanted || (typeof wanted.of === 'number' && !isHad(wanted.of))) return null
  const { of, corners, on } = wanted
  const groundToIt = on !== null && isHad(on) ? groundMotion(areas[0]!, document, frame, on) : null
  return { of, corners, groundToIt }
}

/** The picture of a mark on a frame: it goes with the first area of its placement. */
function planMark({ document, mend, params, areas, frame }: RequestContext): PlannedPlacement['mark'] {
  const wanted = mend.method?.needsMark?.(params)
  if (!wanted) return null
  const { of, on, x, y } = wanted
  const [here, there] = [frame, on].map((at) => placeArea(areas[0]!, document.tracks, at).middle) as [
    Place,
    Place,
  ]
  return { of, x: x + here.x - there.x, y: y + here.y - there.y }
}

type Reaching = Pick<PlannedPlacement, 'mend' | 'params' | 'covers' | 'sourceFromTarget'>

/** Plate in which grain, rim and colour are measured at least, px, with what measuring reads beyond. */
const RING_PX = 16

/** All that a placement may look at on its own frame; null where that lies outside the picture. */
function reachOf({ mend, params, covers, sourceFromTarget: toSource }: Reaching, whole: Rect): Rect | null {
  const written = writtenBy(covers, whole)
  if (!written) return null
  const { method, finish } = mend
  const halfPx = Math.max(written.width, written.height) // of a path: more than it can be
  const reach = method?.reach(params, method.needsPath ? halfPx : 0)
  const carryPx = finish.grain > 0 && finish.grainFrom === 'carried' ? halfPx + 8 : 0
  const around = Math.max(RING_PX, reach?.marginPx ?? 0, reach?.ringPx ?? 0, reach?.aroundPx ?? 0, carryPx)
  const near = intersectRects(growRect(written, Math.ceil(around)), whole)!
  const source = toSource && rectThrough(toSource, growRect(written, RING_PX), whole)
  return source ? uniteRects(near, source) : near
}

/** All that areas may cover; the whole picture where that is not known before it is read. */
function writtenBy(covers: readonly TableArea[], whole: Rect): Rect | null {
  if (covers.some(({ bounds }) => bounds === null)) return whole
  return intersectRects(covers.map(({ bounds }) => bounds!).reduce(uniteRects), whole)
}

/** Another frame has no mends in it: everything that is covered there still shows. */
function withMasked(
  { document, mend }: RequestContext,
  request: FrameRequest,
  reach: Rect | null,
): PlannedRequest {
  const { purpose, isOpen, layersFromHere, groundFromHere } = request
  if (purpose === 'grain' || !reach) return { ...request, masked: [] }
  const whole = wholePicture(document.plate)
  const rect = purpose === 'gather' ? rectThroughAll(layersFromHere ?? [groundFromHere], reach, whole) : whole
  const near = rect
    ? tableOf(document, request.frame)
        .near(rect)
        .filter(({ isTrouble }) => isTrouble)
    : []
  // What is gathered from there is seen through the area: its own thing there is masked too. Whatever else is worked
  // out there is worked out for the mend's own areas.
  const takesOwn = isOpen === true || purpose !== 'gather'
  return {
    ...request,
    masked: takesOwn ? near.filter((one) => one.isHoldout || one.mend.id !== mend.id) : near,
  }
}
