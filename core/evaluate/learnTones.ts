/** Tones of a mend's skin, learnt from the picture: of its area on a frame, of a place in it, and where the light changes them. */
import type { Place } from '../geometry/transform'
import { evenSkin, skinSettings } from '../fill/evenSkin/evenSkin'
import type { ShotDocument } from '../plan/shotDocument'
import type { Clip } from '../shot/clip'
import type { RunContext } from '../shot/context'
import { learnTone, type Tone } from '../skin/tone'
import { lightChanges, type LightChange } from '../skin/lightChanges'
import { learntToneAt, type SetTone, type ToneUse } from '../skin/tonesSet'
import type { Frame } from '../time'
import { skinOfMend, type SkinOfMend } from './skinOfMend'

/** A disc of the picture. */
export interface ToneDisc extends Place {
  readonly radiusPx: number
}

/** Which tone is asked. */
export interface ToneRequest {
  readonly mendId: string
  readonly frame: Frame
  /** One that is learnt comes from the area, others from the disc. */
  readonly use: ToneUse
  readonly disc: ToneDisc | null
}

/**
 * @returns null where the mend is no skin there, or too little is seen to tell a tone by.
 */
export async function learnToneOf(
  document: ShotDocument,
  { mendId, frame, use, disc }: ToneRequest,
  clip: Clip,
): Promise<SetTone | null> {
  const skin = await skinOfMend(document, mendId, frame, clip)
  const ofArea = skin && learnTone(skin.picture, skin.inside)
  if (use === 'learnt') return ofArea && { use, frame, tone: ofArea, beside: null }
  const tone = skin && disc && learnTone(skin.picture, pixelsOf(disc, skin))
  const beside = skin && (learntToneAt(skin.settings.tones, frame) ?? ofArea)
  return tone && beside && { use, frame, tone, beside }
}

function pixelsOf({ x, y, radiusPx }: ToneDisc, { rect }: SkinOfMend): number[] {
  const pixels: number[] = []
  for (let row = 0; row < rect.height; row++)
    for (let col = 0; col < rect.width; col++) {
      const [dx, dy] = [rect.col + col + 0.5 - x, rect.row + row + 0.5 - y]
      if (dx * dx + dy * dy <= radiusPx * radiusPx) pixels.push(row * rect.width + col)
    }
  return pixels
}

/** Frames that are looked at for light changes: as many at most. */
const MAX_LOOKS = 160

/** Where the light on a mend's skin changes so that what was learnt fits no more. Null when it was stopped. */
export async function findLightChanges(
  document: ShotDocument,
  mendId: string,
  clip: Clip,
  context: RunContext,
): Promise<LightChange[] | null> {
  const mend = document.mends.find(({ id }) => id === mendId)
  if (mend?.fill.methodId !== evenSkin.id) return []
  const { firstFrame, lastFrame } = mend.span
  const step = Math.max(1, Math.ceil((lastFrame - firstFrame + 1) / MAX_LOOKS))
  const seen: { frame: Frame; tone: Tone }[] = []
  for (let frame = firstFrame; frame <= lastFrame; frame += step) {
    if (context.shouldStop()) return null
    const skin = await skinOfMend(document, mendId, frame, clip)
    // Each is the last one found again: of several that a face has, the same.
    const tone = skin && learnTone(skin.picture, skin.inside, seen.at(-1)?.tone ?? null)
    if (tone) seen.push({ frame, tone })
    context.onProgress?.(frame - firstFrame + 1, lastFrame - firstFrame + 1)
  }
  return lightChanges(seen, skinSettings(mend.fill.params).tones)
}
