/** From places that were clicked to an edit: what a finished drawing becomes. */
import { v4 as newId } from 'uuid'
import { addArea, drawnArea } from '../../core/document/areaCommands'
import { addMend } from '../../core/document/commands'
import type { Area, Geometry, KeyedArea } from '../../core/document/areas'
import type { MendEdit, MendRecords } from '../../core/document/edits'
import { isSeries } from '../../core/document/kinds'
import { outlineThrough } from '../../core/document/keys'
import { cooked, recipeOf, type Recipe } from '../../core/document/recipes'
import type { MendKind, MendRecord } from '../../core/document/mend'
import type { Size } from '../../core/image/rect'
import type { FrameRange } from '../../core/time'
import type { DrawnShape, Place } from './tool'

const CLICKED_RADIUS_PX = 12 // common practice: motes of 20 to 30 px across at HD
const SMALLEST_PX = 2

/** The geometry that places stand for. @param picture  Its size: what is drawn up to its edge runs out of it. */
export function geometryOf(
  shape: Exclude<DrawnShape, 'point' | 'pair'>,
  places: readonly Place[],
  widthPx: number,
  picture: Size,
): Geometry {
  if (shape === 'box' && places.length === 1) return clickedPixel(places[0]!)
  const [a, b = { x: a.x + CLICKED_RADIUS_PX, y: a.y + CLICKED_RADIUS_PX }] = places as [Place, Place?]
  switch (shape) {
    case 'path':
      return { shape, points: runOut(places, widthPx, picture).map(({ x, y }) => ({ x, y, widthPx })) }
    case 'ellipse':
      return {
        shape,
        x: a.x,
        y: a.y,
        radiusXPx: Math.max(SMALLEST_PX, Math.abs(b.x - a.x)),
        radiusYPx: Math.max(SMALLEST_PX, Math.abs(b.y - a.y)),
        turnDeg: 0,
      }
    case 'box':
      return {
        shape,
        x: (a.x + b.x) / 2,
        y: (a.y + b.y) / 2,
        widthPx: Math.max(SMALLEST_PX, Math.abs(b.x - a.x)),
        heightPx: Math.max(SMALLEST_PX, Math.abs(b.y - a.y)),
        turnDeg: 0,
        cornerPx: 0,
      }
    case 'outline':
      return { shape, points: outlineThrough(places, 'smooth') }
  }
}

/** A line that ends so near to the picture's edge, in its own direction, goes on: nobody draws to the last pixel. */
const NEAR_EDGE_PX = 24

/** A path's places, its ends sent out of the picture where they nearly reach its edge. */
function runOut(places: readonly Place[], widthPx: number, picture: Size): readonly Place[] {
  if (places.length < 2) return places
  const sent = (end: Place, before: Place): Place => {
    const [dx, dy] = [end.x - before.x, end.y - before.y]
    const length = Math.hypot(dx, dy)
    const toEdgePx =
      length * Math.min(untilLeft(end.x, dx, picture.width), untilLeft(end.y, dy, picture.height))
    if (length === 0 || toEdgePx <= 0 || toEdgePx > NEAR_EDGE_PX) return end
    const share = (toEdgePx + widthPx) / length
    return { x: end.x + share * dx, y: end.y + share * dy }
  }
  return places.with(0, sent(places[0]!, places[1]!)).with(-1, sent(places.at(-1)!, places.at(-2)!))
}

/** After how many steps something that is at `at` gets out of 0 to `size`. */
const untilLeft = (at: number, step: number, size: number): number =>
  step === 0 ? Infinity : ((step > 0 ? size : 0) - at) / step

/** A pixel and what demosaicing has spread of it: three whole pixels each way, common practice. */
const clickedPixel = ({ x, y }: Place): Geometry => ({
  shape: 'box',
  x: Math.floor(x) + 0.5,
  y: Math.floor(y) + 0.5,
  widthPx: 3,
  heightPx: 3,
  turnDeg: 0,
  cornerPx: 0,
})

/**
 * A new mend from a drawing; dust joins the dust that is being marked, pixels join pixels.
 * @param joins The mend that a further one goes into. @param recipe What a new one is done with; without it, what its kind starts with.
 */
export function mendFromDrawing(
  records: MendRecords,
  kind: MendKind,
  geometry: Geometry,
  span: FrameRange,
  frame: number,
  joins: string | null,
  recipe?: Recipe,
): { readonly edit: MendEdit; readonly mendId: string; readonly areaId: string } {
  const areaId = newId().slice(0, 8)
  const area = drawnArea(areaId, geometry, frame)
  const into = joins === null ? undefined : records.get(joins)
  if (into?.kind === kind && isSeries(kind) && (!recipe || isMadeWith(into, recipe)))
    return { edit: addArea(into, area), mendId: into.id, areaId }
  const mendId = newId()
  const edit = addMend(records, kind, mendId, [area], span)
  if (!recipe) return { edit, mendId, areaId }
  const after = cooked(edit.changes[0]!.after!, recipe, frame)
  return {
    edit: { ...edit, label: `${edit.label}, ${recipe.name}`, changes: [{ id: mendId, before: null, after }] },
    mendId,
    areaId,
  }
}

/** Whether a mend is still done as a recipe says: then what is drawn next joins it. */
function isMadeWith(mend: MendRecord, recipe: Recipe): boolean {
  const { fill, finish } = recipeOf(mend, recipe.name)
  return JSON.stringify([fill, finish]) === JSON.stringify([recipe.fill, recipe.finish])
}

export const areaFromDrawing = (geometry: Geometry, frame: number, role: Area['role']): KeyedArea =>
  drawnArea(newId().slice(0, 8), geometry, frame, role)
