/** What one sees when one looks around in an all-round frame: small, soon, only for looking. */
import sharp from 'sharp'
import { rgba8FromSamples, type BitDepth } from '../core/image/samples'
import { straighten } from '../core/sphere/straighten'
import { ViewMapping, type StraightView } from '../core/sphere/straightView'
import type { Frame } from '../core/time'
import type { ServerContext } from './context.server'
import { findShot } from './shots.server'

/** @param side  Of the picture, px. @returns null where there is no such shot or frame, or it is not all-round. */
export async function straightLook(
  { database: { db }, frames }: ServerContext,
  shotId: string,
  { frame, side, ...view }: StraightView & { readonly frame: Frame; readonly side: number },
): Promise<Buffer | null> {
  const found = await findShot(db, shotId)
  if (!found?.shot.isAllRound) return null
  const { plate } = found
  if (frame < plate.firstFrame || frame >= plate.firstFrame + plate.frameCount) return null
  const shape = { ...plate, bitDepth: plate.bitDepth as BitDepth }
  const whole = { col: 0, row: 0, width: side, height: side }
  const samples = await straighten(new ViewMapping(view, side), whole, shape, (rect) =>
    frames.readRect(plate.id, shape, frame, rect),
  )
  return sharp(rgba8FromSamples(samples), { raw: { width: side, height: side, channels: 4 } })
    .removeAlpha()
    .jpeg({ quality: 85 })
    .toBuffer()
}
