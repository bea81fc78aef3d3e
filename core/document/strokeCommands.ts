/** What an artist can do to strokes that were painted: one of them, or many alike. */
import type { Frame } from '../time'
import { isStroke, WIDTH_PX, type Area, type PathKey, type StrokeArea } from './areas'
import type { MendEdit } from './edits'
import { geometryAt } from './keyedGeometry'
import { withGeometryAt, withOnlyGeometry } from './keys'
import type { MendRecord } from './mend'
import { recordEdit } from './recordEdit'
import type { Stroke } from './stroke'
import type { Tracks } from './tracks'

export const strokesOf = ({ areas }: Pick<MendRecord, 'areas'>): StrokeArea[] => areas.filter(isStroke)

/** Strokes changed alike, in one step. */
export const setStrokes = (
  mend: MendRecord,
  ids: ReadonlySet<string>,
  change: (stroke: Stroke) => Stroke,
  what: string,
): MendEdit => {
  const areas = mend.areas.map((area): Area =>
    isStroke(area) && ids.has(area.id) ? { ...area, stroke: change(area.stroke) } : area,
  )
  return recordEdit(mend, { ...mend, areas }, `${what} of ${strokesWords(ids.size)} of ${mend.name}`)
}

/** Strokes taken away; null where none would be left: then the mend itself should go. */
export function removeStrokes(mend: MendRecord, ids: ReadonlySet<string>): MendEdit | null {
  const areas = mend.areas.filter(({ id }) => !ids.has(id))
  if (areas.length === mend.areas.length || !areas.some(({ role }) => role === 'cover')) return null
  return recordEdit(mend, { ...mend, areas }, `Delete ${strokesWords(ids.size)} of ${mend.name}`)
}

/** A stroke laid earlier or later than the ones beside it: later ones lie on top. */
export function moveStroke(mend: MendRecord, id: string, by: -1 | 1): MendEdit | null {
  const strokes = strokesOf(mend)
  const nth = strokes.findIndex((stroke) => stroke.id === id)
  const [stroke, other] = [strokes[nth], strokes[nth + by]]
  if (!stroke || !other) return null
  const swapped = (area: Area) => (area === stroke ? other : area === other ? stroke : area)
  return recordEdit(mend, { ...mend, areas: mend.areas.map(swapped) }, `Order of a stroke of ${mend.name}`)
}

export interface StrokePlace {
  readonly tracks: Tracks
  /** The frame on which they are looked at: what rides on a track keeps doing so. */
  readonly frame: Frame
}

/** Strokes moved in the picture, as one, px. */
export const shiftStrokes = (
  mend: MendRecord,
  ids: ReadonlySet<string>,
  { dx, dy }: { readonly dx: number; readonly dy: number },
  place: StrokePlace,
): MendEdit =>
  withPoints(mend, ids, (point) => ({ ...point, x: point.x + dx, y: point.y + dy }), place, 'Place')

/** Strokes so many times as wide, their middle lines where they are. */
export const widenStrokes = (
  mend: MendRecord,
  ids: ReadonlySet<string>,
  times: number,
  place: StrokePlace,
): MendEdit =>
  withPoints(mend, ids, (point) => ({ ...point, widthPx: Math.min(WIDTH_PX.max, Math.max(WIDTH_PX.min, times * point.widthPx)) }), place, 'Size') // prettier-ignore

/** Strokes that begin and end so many frames later, below 0 earlier: each as long as it was, within the frames of their mend. */
export function retimeStrokes(mend: MendRecord, ids: ReadonlySet<string>, byFrames: number): MendEdit {
  const later = ({ span, ...stroke }: Stroke): Stroke => {
    const by = Math.min(mend.span.lastFrame - span.lastFrame, Math.max(mend.span.firstFrame - span.firstFrame, byFrames)) // prettier-ignore
    return { ...stroke, span: { ...span, firstFrame: span.firstFrame + by, lastFrame: span.lastFrame + by } }
  }
  return setStrokes(mend, ids, later, 'Frames')
}

type StrokePoint = PathKey['points'][number]

function withPoints(
  mend: MendRecord,
  ids: ReadonlySet<string>,
  act: (point: StrokePoint) => StrokePoint,
  { tracks, frame }: StrokePlace,
  what: string,
): MendEdit {
  const areas = mend.areas.map((area): Area => {
    if (!isStroke(area) || !ids.has(area.id)) return area
    const geometry = geometryAt(area, tracks, frame)
    if (geometry.shape !== 'path') return area
    const moved = { ...geometry, points: geometry.points.map(act) }
    const set = area.keys.length === 1 ? withOnlyGeometry : withGeometryAt
    return set(area, tracks, frame, moved)
  })
  return recordEdit(mend, { ...mend, areas }, `${what} of ${strokesWords(ids.size)} of ${mend.name}`)
}

const strokesWords = (count: number): string => (count === 1 ? 'a stroke' : `${count} strokes`)
