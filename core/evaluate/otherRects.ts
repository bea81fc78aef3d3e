/** Which rectangles of other frames a placement reads: known before anything is read, so that all of them can be brought together. */
import type { PathPart } from '../fill/method'
import { MAX_DRIFT_PX } from '../finish/drift'
import { growRect, intersectRects, wholePicture, type Rect } from '../image/rect'
import { rectThrough, rectThroughAll } from '../plan/boxes'
import { requestKey } from '../plan/keys'
import type { PlannedRequest } from '../plan/planFrame'
import type { Clip, FrameRect } from '../shot/clip'
import type { RunContext } from '../shot/context'
import type { Frame } from '../time'
import { readRectsOn } from './fillInput'
import type { Placement } from './placement'
import type { ShapeReader } from './shapeReader'

/** Between pixels, and for differences of neighbours. */
const BEYOND_PX = 3
/** A draft is gathered from a few frames, spread over the range. */
const DRAFT_FRAMES = 6

/** The requests of a placement that a draft is made from, or all of them. */
export function gatherRequests({ requests }: Placement, { isDraft }: RunContext): PlannedRequest[] {
  const gathered = requests.filter(({ purpose }) => purpose === 'gather')
  if (!isDraft) return gathered
  const step = Math.max(1, Math.floor(gathered.length / DRAFT_FRAMES))
  return gathered.filter((_, i) => i % step === 0)
}

/** Crops are cut on a grid of so many px, so that a frame's neighbours ask the same ones. */
const GRID_PX = 32

/** What gathering reads of another frame; null where nothing of it lies in the picture. */
export const gatherRect = ({ writeRect, aroundPx }: Placement, request: PlannedRequest, clip: Clip) =>
  onGrid(
    rectThroughAll(
      request.layersFromHere ?? [request.groundFromHere],
      growRect(writeRect, aroundPx + BEYOND_PX),
      wholePicture(clip.plate),
    ),
    clip,
  )

export const grainRect = ({ writeRect, ringPx }: Placement, { groundFromHere }: PlannedRequest, clip: Clip) =>
  onGrid(
    rectThrough(
      groundFromHere,
      growRect(writeRect, ringPx + MAX_DRIFT_PX + BEYOND_PX),
      wholePicture(clip.plate),
    ),
    clip,
  )

function onGrid(rect: Rect | null, { plate }: Clip): Rect | null {
  if (!rect) return null
  const [left, top] = [GRID_PX * Math.floor(rect.col / GRID_PX), GRID_PX * Math.floor(rect.row / GRID_PX)]
  const right = GRID_PX * Math.ceil((rect.col + rect.width) / GRID_PX)
  const bottom = GRID_PX * Math.ceil((rect.row + rect.height) / GRID_PX)
  return intersectRects(
    { col: left, row: top, width: right - left, height: bottom - top },
    wholePicture(plate),
  )
}

/** What a fill has made of another frame is kept under this. @param parts  Of its path, where only these were asked for. */
export function preparedKey(
  placement: Placement,
  request: PlannedRequest,
  parts: readonly PathPart[] | null,
  { isDraft }: RunContext,
): string {
  const draft = placement.method.hasDraft && isDraft ? 'draft' : ''
  const shares = parts?.map(({ from, to }) => `${from} ${to}`).join(' ') ?? ''
  return `prepared ${draft} ${shares} ${requestKey(placement, request)}`
}

/**
 * All rectangles that a placement may read beyond its own surroundings: its source, and what it looks at on other frames.
 * @param here  Its own frame. @param isFilled  What it gathers is known already.
 */
export async function wantedRects(
  placement: Placement,
  here: Frame,
  clip: Clip,
  reader: ShapeReader,
  context: RunContext,
  isFilled: boolean,
): Promise<FrameRect[]> {
  const gathered = isFilled ? [] : gatherRequests(placement, context)
  const wanted: { frame: Frame; rect: Rect | null }[] = gathered.map((request) => ({
    frame: request.frame,
    rect: gatherRect(placement, request, clip),
  }))
  if (!isFilled) wanted.push({ frame: here, rect: placement.sourceRect })
  const isPrepared = (request: PlannedRequest) =>
    clip.cache?.get(preparedKey(placement, request, null, context)) !== undefined
  for (const request of placement.requests) {
    const { frame, purpose } = request
    if (purpose === 'grain') wanted.push({ frame, rect: grainRect(placement, request, clip) })
    else if (purpose !== 'gather' && !isFilled && !isPrepared(request)) {
      const rects = readRectsOn(request, await reader.all(shapesOf(request), frame), placement, clip)
      if (rects) wanted.push({ frame, rect: rects.readRect }, { frame, rect: rects.sourceRect })
    }
  }
  return wanted.filter((one): one is FrameRect => one.rect !== null)
}

const shapesOf = ({ shapes }: PlannedRequest) => shapes.map(({ shape }) => shape)
