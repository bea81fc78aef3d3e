/** Where fills that copy take their pixels from: a shift of the area in time, turned and scaled if need be. */
import { z } from 'zod'
import { followSchema, frameSchema } from './basics'

const MAX_SHIFT_PX = 100_000

export const sourceKeySchema = z.strictObject({
  frame: frameSchema,
  dx: z
    .number()
    .min(-MAX_SHIFT_PX)
    .max(MAX_SHIFT_PX)
    .meta({ description: 'px to the right of the area’s middle' }),
  dy: z.number().min(-MAX_SHIFT_PX).max(MAX_SHIFT_PX).meta({ description: 'px below the area’s middle' }),
  turnDeg: z
    .number()
    .min(-36_000)
    .max(36_000)
    .meta({ description: 'degrees, clockwise, that the source is turned against the area' }),
  scale: z
    .number()
    .min(0.1)
    .max(10)
    .meta({ description: 'Size of the source against the area: 2 takes from twice the size' }),
})

export const sourceSchema = z
  .strictObject({
    keys: z.array(sourceKeySchema).min(1).max(10_000),
    interpolation: z.enum(['smooth', 'linear']),
    follow: followSchema.nullable().meta({
      description:
        'A track of the source’s own. Its keys then hold the shift as it was on the track’s reference frame',
    }),
  })
  .superRefine(({ keys }, context) => {
    for (let i = 1; i < keys.length; i++) {
      if (keys[i]!.frame <= keys[i - 1]!.frame) {
        context.addIssue({
          code: 'custom',
          path: ['keys', i, 'frame'],
          message: 'keys must be in rising order of frames, one for each frame',
        })
      }
    }
  })

export type Source = z.output<typeof sourceSchema>
export type SourceKey = z.output<typeof sourceKeySchema>
/** A source on one frame. */
export type Shift = Omit<SourceKey, 'frame'>

export const SCALE_RANGE = { min: 0.1, max: 10 } as const
