/** Tracks as files: `tracks.json`, a table of comma-separated values, and `points.json`, which asks for them. */
import { z } from 'zod'
import { trackSettingsSchema } from '../motion/settings'
import { frameSchema } from './basics'
import { describeIssues } from './document'
import { placesOf, trackKindSchema, trackSchema, type Track } from './tracks'

export const tracksFileSchema = z
  .strictObject({
    format: z.literal('fillagrant-tracks'),
    version: z.literal(1),
    plate: z
      .strictObject({ width: z.int().min(1), height: z.int().min(1) })
      .meta({ description: 'Size of the picture that positions are px of' }),
    tracks: z.array(trackSchema).max(10_000),
    ends: z
      .array(
        z.strictObject({
          trackId: z.string(),
          direction: z.enum(['forward', 'backward']),
          reason: z.string(),
          frame: frameSchema,
        }),
      )
      .optional()
      .meta({ description: 'Why each run ended, and on which frame' }),
  })
  .meta({ title: 'Fillagrant tracks', description: 'How things in a shot move' })
export type TracksFile = z.output<typeof tracksFileSchema>

export const pointsFileSchema = z
  .strictObject({
    format: z.literal('fillagrant-points'),
    version: z.literal(1),
    tracks: z
      .array(
        z.strictObject({
          name: z.string().trim().min(1).max(80),
          kind: trackKindSchema.exclude(['cling', 'thing', 'face']),
          frame: frameSchema.meta({ description: 'Where it starts' }),
          seed: z
            .array(z.number())
            .min(2)
            .max(4000)
            .meta({ description: 'x, y pairs in px: the point, the two points, or the outline' }),
          direction: z.enum(['forward', 'backward', 'both']).default('both'),
          settings: trackSettingsSchema.partial().default({}),
        }),
      )
      .min(1)
      .max(1000),
  })
  .meta({ title: 'Fillagrant points', description: 'What to track' })

export type FileResult<T> =
  { readonly ok: true; readonly value: T } | { readonly ok: false; readonly detail: string }

/** Reads JSON of one of these schemas; says in words what is wrong and where. */
export function parseFile<T>(schema: z.ZodType<T>, text: string): FileResult<T> {
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch (cause) {
    return { ok: false, detail: `It is not JSON: ${(cause as Error).message}.` }
  }
  const result = schema.safeParse(value)
  return result.success
    ? { ok: true, value: result.data }
    : { ok: false, detail: describeIssues(result.error) }
}

export const serialiseTracks = (file: TracksFile): string => `${JSON.stringify(file)}\n`

const HEAD = ['track', 'kind', 'reference', 'frame', 'sure']

/**
 * One line for each frame of each track: name, kind, reference frame, frame, sure, then the numbers.
 * Source of the quoting: RFC 4180.
 */
export function tracksToCsv(tracks: readonly Track[]): string {
  const max = Math.max(0, ...tracks.map((track) => (track.frames[0]?.length ?? 2) - 2))
  const lines = [[...HEAD, ...Array.from({ length: max }, (_, i) => `v${i + 1}`)].join(',')]
  for (const track of tracks)
    for (const row of track.frames)
      lines.push([quoted(track.name), track.kind, track.referenceFrame, ...row].join(','))
  return `${lines.join('\r\n')}\r\n`
}

const quoted = (text: string): string => (/[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text)

/** The tracks of a table, with default settings; the table says where things were, not how they were found. */
export function tracksFromCsv(text: string, nextId: () => string): FileResult<Track[]> {
  const rows = splitCsv(text)
  const [head] = rows
  if (!head || HEAD.some((name, i) => head[i] !== name))
    return { ok: false, detail: `The first line must begin with ${HEAD.join(',')}.` }
  const byName = new Map<string, { kind: string; reference: number; frames: number[][] }>()
  for (const [index, cells] of rows.slice(1).entries()) {
    const [name = '', kind = '', ...rest] = cells
    const numbers = rest.filter((cell) => cell !== '').map(Number)
    if (numbers.length < 4 || numbers.some((value) => !Number.isFinite(value)))
      return { ok: false, detail: `Line ${index + 2}: every value after the kind must be a number.` }
    const entry = byName.get(name) ?? { kind, reference: numbers[0]!, frames: [] }
    entry.frames.push(numbers.slice(1))
    byName.set(name, entry)
  }
  const tracks: Track[] = []
  for (const [name, { kind, reference, frames }] of byName) {
    const seed = frames.find(([frame]) => frame === reference)?.slice(2) ?? frames[0]!.slice(2)
    const candidate = {
      id: nextId(),
      name,
      kind,
      referenceFrame: reference,
      settings: trackSettingsSchema.parse({}),
      seed: seedOf(kind, seed),
      smoothFrames: 0,
      frames: frames.sort((a, b) => a[0]! - b[0]!),
    }
    const result = trackSchema.safeParse(candidate)
    if (!result.success) return { ok: false, detail: `Track ${name}: ${describeIssues(result.error)}` }
    tracks.push(result.data)
  }
  return { ok: true, value: tracks }
}

const seedOf = (kind: string, values: readonly number[]): number[] =>
  kind === 'surface'
    ? placesOf(values)
    : kind === 'planar' || kind === 'spread'
      ? values.slice(0, 8)
      : [...values]

function splitCsv(text: string): string[][] {
  return text
    .split(/\r?\n/)
    .filter((line) => line !== '')
    .map((line) =>
      [...line.matchAll(/(?:^|,)(?:"((?:[^"]|"")*)"|([^,]*))/g)].map(
        ([, inQuotes, plain]) => inQuotes?.replaceAll('""', '"') ?? plain ?? '',
      ),
    )
}
