/** Spots that stand out on the skin of a mend, on one frame. */
import { placeArea } from '../plan/placedArea'
import type { ShotDocument } from '../plan/shotDocument'
import { tableOf } from '../plan/planFrame'
import { evenSkin, skinSettings, toneWidths } from '../fill/evenSkin/evenSkin'
import { NEVER } from '../fill/method'
import { growRect, intersectRects, uniteRects, wholePicture } from '../image/rect'
import type { Clip } from '../shot/clip'
import type { RunContext } from '../shot/context'
import { findSpots, type Spot, type SpotSizes } from '../skin/findSpots'
import { learnTone } from '../skin/tone'
import { toneMatte } from '../skin/toneMatte'
import type { Frame } from '../time'
import { boundsOf, coverShapes, HARD, tabooOf, type TabooShape } from './coverage'
import { readRaster } from './fillInput'
import { ShapeReader } from './shapeReader'

/** Blemishes in parts of the radius of blotches: from a pore's end to what is a patch. */
const [MIN_SHARE, MAX_SHARE] = [0.065, 0.36]
const MIN_RADIUS_PX = 1.5
/** So much beside the area is looked at, radii of blotches: means reach as far. */
const AROUND = 1

/**
 * @returns Places in px of the full picture, the plainest first; none where the mend is no skin or shows none. Null when it was stopped.
 * What other mends cover already is left out, as is what is held out.
 */
export async function findBlemishes(
  document: ShotDocument,
  mendId: string,
  frame: Frame,
  clip: Clip,
  context: RunContext,
): Promise<Spot[] | null> {
  const mend = document.mends.find(({ id }) => id === mendId)
  if (mend?.fill.methodId !== evenSkin.id) return []
  const settings = skinSettings(mend.fill.params)
  const reader = new ShapeReader(clip)
  const covers = mend.areas.filter(({ role }) => role === 'cover')
  const shapes = await reader.all(
    covers.map((area) => placeArea(area, document.tracks, frame).shape),
    frame,
  )
  if (shapes.length === 0) return []
  const around = Math.ceil(AROUND * settings.radiusPx)
  const box = shapes.map((shape) => boundsOf(shape)).reduce(uniteRects)
  const rect = intersectRects(growRect(box, around), wholePicture(clip.plate))
  if (!rect) return []
  const picture = await readRaster(clip, frame, rect)
  if (context.shouldStop()) return null
  const { field, coverage } = coverShapes(shapes, rect, 1, HARD)
  const inside = field.pixels.filter((_, i) => coverage[i]! > 0)
  const tone = learnTone(picture, inside)
  if (!tone) return []
  const matte = new Float32Array(rect.width * rect.height)
  const told = settings.where === 'tone' ? toneMatte(picture, tone, toneWidths(settings)) : null
  for (const pixel of inside) matte[pixel] = told ? told[pixel]! : 1
  const others: TabooShape[] = []
  for (const area of tableOf(document, frame).areas) {
    const [shape] = area.isTrouble ? await reader.all([area.placed.shape], frame) : []
    if (shape) others.push({ shape, edge: area.edge, level: NEVER })
  }
  const taken = tabooOf(others, rect)
  if (context.shouldStop()) return null
  return findSpots(picture, matte, sizesOf(settings.radiusPx))
    .filter(({ x, y }) => !taken || taken[Math.floor(y) * rect.width + Math.floor(x)] === 0)
    .map((spot) => ({ ...spot, x: rect.col + spot.x, y: rect.row + spot.y }))
}

const sizesOf = (radiusPx: number): SpotSizes => ({
  minRadiusPx: Math.max(MIN_RADIUS_PX, MIN_SHARE * radiusPx),
  maxRadiusPx: Math.max(2 * MIN_RADIUS_PX, MAX_SHARE * radiusPx),
})
