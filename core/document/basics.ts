/** What many records of the document are made of. */
import { z } from 'zod'

const MAX_FRAME = 10_000_000

export const frameSchema = z
  .int()
  .min(0)
  .max(MAX_FRAME)
  .meta({ description: 'Frame number as read on the timeline' })
/** Ids are part of addresses and seeds. */
export const idSchema = z.string().regex(/^[A-Za-z0-9_-]{1,64}$/, 'an id has 1 to 64 letters, digits, - or _')

/** Which parts of a track's motion an area takes over. */
export const motionPartsSchema = z.strictObject({
  position: z.boolean(),
  rotation: z.boolean(),
  scale: z.boolean(),
  skew: z.boolean(),
})

export const followSchema = z.strictObject({ trackId: idSchema, uses: motionPartsSchema }).meta({
  description:
    'The track that the area follows. Its keys then hold the shape as it lies on the track’s reference frame: later keys are offsets',
})

export type Follow = z.output<typeof followSchema>

export const ALL_PARTS: Follow['uses'] = { position: true, rotation: true, scale: true, skew: true }
