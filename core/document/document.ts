/** The mend document as a file: `mends.json`. */
import { z } from 'zod'
import { mendSchema, type Mend, type MendRecord } from './mend'
import { trackSchema } from './tracks'
import { upgradeDocument } from './upgrade'

export const DOCUMENT_FORMAT = 'fillagrant-mends'
export const DOCUMENT_VERSION = 4
/** Versions that are read; earlier ones are brought to the present form. */
const READABLE = [1, 2, 3, 4] as const

export const documentSchema = z
  .strictObject({
    format: z.literal(DOCUMENT_FORMAT),
    version: z.literal(DOCUMENT_VERSION),
    plate: z
      .strictObject({
        name: z.string().max(200),
        width: z.int().min(1),
        height: z.int().min(1),
        firstFrame: z.int().min(0),
        frameCount: z.int().min(1),
        frameRate: z.strictObject({ num: z.int().min(1), den: z.int().min(1) }),
      })
      .meta({ description: 'The plate that the mends were made on' }),
    mends: z.array(mendSchema).max(10_000).meta({ description: 'Applied in this order' }),
    tracks: z.array(trackSchema).max(10_000).meta({ description: 'What areas follow' }),
  })
  .superRefine((document, context) => {
    for (const list of ['mends', 'tracks'] as const) {
      const seen = new Set<string>()
      document[list].forEach(({ id }, index) => {
        if (seen.has(id))
          context.addIssue({
            code: 'custom',
            path: [list, index, 'id'],
            message: `the id "${id}" is used twice`,
          })
        seen.add(id)
      })
    }
    const known = new Set(document.tracks.map((track) => track.id))
    document.mends.forEach((mend, index) =>
      mend.areas.forEach((area, at) => {
        if (area.follow && !known.has(area.follow.trackId)) {
          context.addIssue({
            code: 'custom',
            path: ['mends', index, 'areas', at, 'follow'],
            message: `there is no track "${area.follow.trackId}"`,
          })
        }
      }),
    )
  })
  .meta({ title: 'Fillagrant mends', description: 'What is removed from a shot, where, how and when' })

export type MendDocument = z.output<typeof documentSchema>

export type DocumentProblem = 'not-json' | 'not-a-document' | 'wrong-version' | 'invalid'
export type DocumentResult =
  | { readonly ok: true; readonly document: MendDocument }
  | { readonly ok: false; readonly reason: DocumentProblem; readonly detail: string }

/**
 * Reads a document from text. Says in words what is wrong and where; never guesses.
 * JSON has no NaN or infinity, so a number that is neither is refused as text that is not JSON.
 */
export function parseDocument(text: string): DocumentResult {
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch (cause) {
    return {
      ok: false,
      reason: 'not-json',
      detail: `It is not JSON: ${(cause as Error).message}. Export the mends again.`,
    }
  }
  const head = z.looseObject({ format: z.literal(DOCUMENT_FORMAT), version: z.number() }).safeParse(value)
  if (!head.success) {
    return {
      ok: false,
      reason: 'not-a-document',
      detail: `It is no mends file: "format" must be "${DOCUMENT_FORMAT}" and "version" a number.`,
    }
  }
  if (!(READABLE as readonly number[]).includes(head.data.version)) {
    return {
      ok: false,
      reason: 'wrong-version',
      detail: `It has version ${head.data.version}; this program reads versions ${READABLE.join(', ')}. Export the mends again with this program.`,
    }
  }
  const result = documentSchema.safeParse(upgradeDocument(value))
  if (!result.success) return { ok: false, reason: 'invalid', detail: describeIssues(result.error) }
  return { ok: true, document: result.data }
}

export function serialiseDocument(document: MendDocument): string {
  return `${JSON.stringify(document, null, 2)}\n`
}

/** The same records in a stack's order. */
export const inStackOrder = <R extends Pick<MendRecord, 'id' | 'stackIndex'>>(records: Iterable<R>): R[] =>
  [...records].sort((a, b) => a.stackIndex - b.stackIndex || (a.id < b.id ? -1 : 1))

/** The mends in a stack's order, without their place in it. */
export const mendsInStackOrder = (records: Iterable<MendRecord>): Mend[] =>
  inStackOrder(records).map(({ stackIndex: _order, ...mend }) => mend)

/** The first few mistakes of a failed check, each with its place, as one sentence. */
export function describeIssues(error: z.ZodError): string {
  const lines = error.issues
    .slice(0, 5)
    .map((issue) => `${issue.path.join('.') || 'the file'}: ${issue.message}`)
  if (error.issues.length > 5) lines.push(`and ${error.issues.length - 5} more`)
  return lines.join('; ')
}
