/** What a mend of skin lies on, on one frame: the plate there, and which of its pixels are asked. */
import { evenSkin, skinSettings } from '../fill/evenSkin/evenSkin'
import { NEVER } from '../fill/method'
import type { Raster } from '../image/raster'
import { growRect, intersectRects, uniteRects, wholePicture, type Rect } from '../image/rect'
import { placeArea } from '../plan/placedArea'
import { tableOf } from '../plan/planFrame'
import type { ShotDocument } from '../plan/shotDocument'
import type { Clip } from '../shot/clip'
import type { Frame } from '../time'
import { boundsOf, coverShapes, HARD, tabooOf, type TabooShape } from './coverage'
import { readRaster } from './fillInput'
import { ShapeReader } from './shapeReader'

/** So much beside the area is looked at too, radii of blotches: means reach as far. */
const AROUND = 1

export interface SkinOfMend {
  readonly settings: ReturnType<typeof skinSettings>
  /** In the full picture. */
  readonly rect: Rect
  readonly picture: Raster
  /** Pixels of the rectangle that the areas cover, and no holdout nor another mend takes. */
  readonly inside: Int32Array
}

/** @returns null where the mend is none of skin, or covers nothing of the frame. */
export async function skinOfMend(
  document: ShotDocument,
  mendId: string,
  frame: Frame,
  clip: Clip,
): Promise<SkinOfMend | null> {
  const mend = document.mends.find(({ id }) => id === mendId)
  if (mend?.fill.methodId !== evenSkin.id) return null
  const settings = skinSettings(mend.fill.params)
  const reader = new ShapeReader(clip)
  const covers = mend.areas.filter(({ role }) => role === 'cover')
  const placed = covers.map((area) => placeArea(area, document.tracks, frame).shape)
  const shapes = await reader.all(placed, frame)
  if (shapes.length === 0) return null
  const box = shapes.map((shape) => boundsOf(shape)).reduce(uniteRects)
  const around = growRect(box, Math.ceil(AROUND * settings.radiusPx))
  const rect = intersectRects(around, wholePicture(clip.plate))
  if (!rect) return null
  const picture = await readRaster(clip, frame, rect)
  const { field, coverage } = coverShapes(shapes, rect, 1, HARD)
  const others: TabooShape[] = []
  for (const area of tableOf(document, frame).areas) {
    const [shape] = area.isTrouble ? await reader.all([area.placed.shape], frame) : []
    if (shape) others.push({ shape, edge: area.edge, level: NEVER })
  }
  const taken = tabooOf(others, rect)
  const inside = field.pixels.filter((pixel, i) => coverage[i]! > 0 && (!taken || taken[pixel] === 0))
  return { settings, rect, picture, inside }
}
