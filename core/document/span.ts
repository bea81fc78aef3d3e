/** When a mend or a stroke is on. */
import { z } from 'zod'
import { frameSchema } from './basics'

const rampSchema = z.int().min(0).max(1000).default(0)

/** The frames where a mend is on; over its ramps it comes and goes bit by bit. */
export const spanSchema = z
  .strictObject({
    firstFrame: frameSchema,
    lastFrame: frameSchema,
    rampInFrames: rampSchema.meta({ description: 'Frames over which it comes, counted from the first' }),
    rampOutFrames: rampSchema.meta({ description: 'Frames over which it goes, counted back from the last' }),
  })
  .refine((span) => span.lastFrame >= span.firstFrame, {
    message: 'the last frame must not come before the first',
  })

/** How far it is on at a frame of its span, 0 to 1: even steps, the first of them above 0. */
export function rampAt({ firstFrame, lastFrame, rampInFrames, rampOutFrames }: Span, frame: number): number {
  if (frame < firstFrame || frame > lastFrame) return 0
  return Math.min(
    1,
    (frame - firstFrame + 1) / (rampInFrames + 1),
    (lastFrame - frame + 1) / (rampOutFrames + 1),
  )
}

export type Span = z.output<typeof spanSchema>
