/** Spots that stand out on the skin of a mend, on one frame. */
import { toneWidths } from '../fill/evenSkin/evenSkin'
import type { ShotDocument } from '../plan/shotDocument'
import type { Clip } from '../shot/clip'
import type { RunContext } from '../shot/context'
import { findSpots, type Spot, type SpotSizes } from '../skin/findSpots'
import { learnTone } from '../skin/tone'
import { toneMatte } from '../skin/toneMatte'
import { learntToneAt, tonesOn } from '../skin/tonesSet'
import type { Frame } from '../time'
import { skinOfMend } from './skinOfMend'

/** Blemishes in parts of the radius of blotches: from a pore's end to what is a patch. */
const [MIN_SHARE, MAX_SHARE] = [0.065, 0.36]
const MIN_RADIUS_PX = 1.5

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
  const skin = await skinOfMend(document, mendId, frame, clip)
  if (context.shouldStop()) return null
  if (!skin) return []
  const { picture, inside, rect, settings } = skin
  const own = learntToneAt(settings.tones, frame) ?? learnTone(picture, inside)
  if (!own) return []
  const matte = new Float32Array(rect.width * rect.height)
  const told =
    settings.where === 'tone' ? toneMatte(picture, tonesOn(settings.tones, own), toneWidths(settings)) : null
  for (const pixel of inside) matte[pixel] = told ? told[pixel]! : 1
  if (context.shouldStop()) return null
  const isInside = new Uint8Array(matte.length)
  for (const pixel of inside) isInside[pixel] = 1
  return findSpots(picture, matte, sizesOf(settings.radiusPx))
    .filter(({ x, y }) => isInside[Math.floor(y) * rect.width + Math.floor(x)] === 1)
    .map((spot) => ({ ...spot, x: rect.col + spot.x, y: rect.row + spot.y }))
}

const sizesOf = (radiusPx: number): SpotSizes => ({
  minRadiusPx: Math.max(MIN_RADIUS_PX, MIN_SHARE * radiusPx),
  maxRadiusPx: Math.max(2 * MIN_RADIUS_PX, MAX_SHARE * radiusPx),
})
