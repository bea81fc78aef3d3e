/** What people say of a shot. */
import { z } from 'zod'

/** A name typed once, kept in the browser. */
export const authorSchema = z.string().trim().min(1, 'Say who you are.').max(80)
const wordsSchema = z.string().trim().min(1, 'Write something.').max(4000)
const frameSchema = z.int().min(0).max(10_000_000)

export const newNoteSchema = z
  .strictObject({
    intent: z.literal('note'),
    versionId: z.uuid().nullable(),
    answerTo: z.uuid().nullable(),
    firstFrame: frameSchema,
    lastFrame: frameSchema,
    x: z.number().min(0).max(100_000).nullable(),
    y: z.number().min(0).max(100_000).nullable(),
    words: wordsSchema,
    author: authorSchema,
  })
  .refine(({ firstFrame, lastFrame }) => lastFrame >= firstFrame, {
    path: ['lastFrame'],
    message: 'The last frame must not come before the first.',
  })

export const resolveNoteSchema = z.strictObject({
  intent: z.literal('resolve'),
  noteId: z.uuid(),
  isResolved: z.boolean(),
  author: authorSchema,
})

export interface Note {
  readonly id: string
  readonly versionNumber: number | null
  readonly answerTo: string | null
  readonly firstFrame: number
  readonly lastFrame: number
  /** Px of the picture; null where it is about the whole frame. */
  readonly x: number | null
  readonly y: number | null
  readonly words: string
  readonly author: string
  /** ISO 8601. */
  readonly at: string
  readonly resolvedBy: string | null
}
