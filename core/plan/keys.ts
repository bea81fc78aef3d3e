/**
 * Names for what a plan comes to, as digests: equal exactly when the pixels are. Names of mends, and keys on other frames,
 * have no part in them, so an undo finds its frames again. `readyDigests` must have been awaited.
 */
import type { Matrix3 } from '../geometry/transform'
import type { Edge } from '../matte/edge'
import { wholePicture, type Rect } from '../image/rect'
import { layersDigest } from '../scene/sceneLayers'
import type { Scene } from '../scene/scene'
import { digestOf } from '../shot/digest'
import type { Frame } from '../time'
import { boxThrough } from './boxes'
import type { TableArea } from './frameTable'
import { layersRect } from './groundMotion'
import type { FramePlan, PlannedPlacement, PlannedRequest } from './planFrame'
import type { PlannedMend } from './plannedMend'

const edgeText = ({ featherInPx, featherOutPx, growPx }: Edge): string =>
  `${featherInPx} ${featherOutPx} ${growPx}`

const areaTexts = new WeakMap<TableArea, string>()

/** A frame's table is kept, and asked by all frames that look at it. */
function areaText(area: TableArea): string {
  let text = areaTexts.get(area)
  if (text === undefined) {
    const { placed, edge, isHoldout } = area
    areaTexts.set(area, (text = `${placed.digest} ${isHoldout ? 'held' : edgeText(edge)}`))
  }
  return text
}

const matrixTexts = new WeakMap<Matrix3, string>()

/** Motions between two frames are the same objects for all that ask: each is written out once. */
function matrixText(matrix: Matrix3 | null): string {
  if (!matrix) return ''
  let text = matrixTexts.get(matrix)
  if (text === undefined) matrixTexts.set(matrix, (text = matrix.join(' ')))
  return text
}

const mendTexts = new WeakMap<PlannedMend, string>()

/** What of a mend decides its fill on a frame; keyed settings as they hold there. */
function mendText(mend: PlannedMend, params: Record<string, unknown>): string {
  let text = mendTexts.get(mend)
  if (text === undefined) {
    const { id, method, finish, isKeyed } = mend
    text = JSON.stringify([id, method?.id, method?.version, isKeyed ? null : params, edgeText(finish)])
    mendTexts.set(mend, text)
  }
  return mend.isKeyed ? `${text} ${JSON.stringify(params)}` : text
}

/** What was prepared on another frame is shared by all frames that ask it the same. */
export function requestKey(placement: PlannedPlacement, request: PlannedRequest): string {
  const { mend, params } = placement
  const { frame, purpose, shapes, masked, isOpen, sourceFromTarget } = request
  return digestOf([
    mendText(mend, params),
    `${frame} ${purpose} ${isOpen === true} ${matrixText(sourceFromTarget)}`,
    shapes.map(({ digest }) => digest).join(' '),
    masked.map(areaText).join(' '),
  ])
}

/** What covers something on the frame of a request. */
export const maskedKey = ({ masked }: PlannedRequest): string => digestOf(masked.map(areaText))

const fillKeys = new WeakMap<PlannedPlacement['covers'], string>()

/** All that the fill of a placement hangs on, except what placements before it have put beneath. */
export function fillKey(plan: FramePlan, placement: PlannedPlacement): string {
  // Asked for by many; the covers of a placement are its own in its plan.
  let key = fillKeys.get(placement.covers)
  if (key === undefined) fillKeys.set(placement.covers, (key = workOutFillKey(plan, placement)))
  return key
}

function workOutFillKey({ frame, scene }: FramePlan, placement: PlannedPlacement): string {
  const { mend, params, covers, holdouts, others, sourceFromTarget, still, mark, requests } = placement
  const own = covers[0]!.stackIndex
  const parts = [
    mendText(mend, params),
    `${frame} ${matrixText(sourceFromTarget)}`,
    still ? JSON.stringify(still) : '',
    mark ? JSON.stringify(mark) : '',
    covers.map(areaText).join(' '),
    holdouts.map(areaText).join(' '),
    others.map((one) => `${areaText(one)} ${one.stackIndex < own ? 'below' : 'above'}`).join(' '),
    requests.map((request) => requestText(scene, placement, request)).join('\n'),
  ]
  if (scene && requests.some(({ purpose }) => purpose === 'gather'))
    parts.push(layersDigest(scene, frame, aroundOf(scene, placement)))
  return digestOf(parts)
}

/** In one line: there are many, and each part of a digest costs. */
function requestText(scene: Scene | null, placement: PlannedPlacement, request: PlannedRequest): string {
  const { purpose, groundFromHere, areaFromHere, layersFromHere } = request
  if (purpose !== 'gather')
    return `${requestKey(placement, request)}|${matrixText(groundFromHere)}|${matrixText(areaFromHere)}`
  const around = scene && layersFromHere ? boxThrough(layersFromHere[0]!, aroundOf(scene, placement)) : null
  const layers = scene && around ? layersDigest(scene, request.frame, around) : ''
  const motions = (layersFromHere ?? [groundFromHere]).map(matrixText).join(' ')
  return `${request.frame} ${request.isOpen === true}|${motions}|${request.masked.map(areaText).join(' ')}|${layers}`
}

/** The part of the frame in which a placement's layers are asked for. */
export function aroundOf(scene: Scene, { covers }: PlannedPlacement): Rect {
  const rects = covers.map(({ placed }) => layersRect(placed, scene))
  if (rects.length === 1) return rects[0]!
  const left = Math.min(...rects.map(({ col }) => col))
  const top = Math.min(...rects.map(({ row }) => row))
  return rects.length === 0
    ? wholePicture(scene.plate)
    : {
        col: left,
        row: top,
        width: Math.max(...rects.map(({ col, width }) => col + width)) - left,
        height: Math.max(...rects.map(({ row, height }) => row + height)) - top,
      }
}

/** All that the finished pixels of a placement hang on, except what lies beneath. */
export function finishedKey(plan: FramePlan, placement: PlannedPlacement): string {
  return digestOf([fillKey(plan, placement), `${placement.share}`, finishText(placement.mend)])
}

const finishTexts = new WeakMap<PlannedMend, string>()

function finishText(mend: PlannedMend): string {
  let text = finishTexts.get(mend)
  if (text === undefined) finishTexts.set(mend, (text = JSON.stringify(mend.finish)))
  return text
}

/** Of several in the order of the stack, as one. */
export const joinedKey = (keys: readonly string[]): string => digestOf(keys)

/** What a finished frame is called: equal exactly when its pixels are. */
export const frameKey = (plan: FramePlan): string =>
  joinedKey(plan.placements.map((placement) => finishedKey(plan, placement)))

/** The same of several frames. */
export interface FrameName {
  readonly frame: Frame
  readonly key: string
}
