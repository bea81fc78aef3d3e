/** News of what changes, from the server to every open page. */
import { z } from 'zod'

export const newsSchema = z.object({
  kind: z.enum(['import', 'version', 'shot', 'scene', 'gather', 'survey', 'camera', 'view', 'proof', 'note']),
  id: z.string(),
  /** Only numbers have changed: how far long work is. All else is as it was, and need not be asked for. */
  step: z
    .object({
      /** Of several that go on for one shot, which one. */
      part: z.string().nullable(),
      done: z.number(),
      total: z.number(),
      /** Since it began. */
      seconds: z.number().nullable(),
    })
    .optional(),
})

export type News = z.output<typeof newsSchema>
export type NewsKind = News['kind']
export type NewsStep = NonNullable<News['step']>
