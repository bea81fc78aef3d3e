/**
 * Finds: what a survey suspects of having to go, and the file that lists them.
 *
 * Positions and sizes are px of the full-size picture, corner at 0; frames are the numbers people read.
 */
import { z } from 'zod'
import type { Frame } from '../time'

const frameSchema = z.int().min(0)
const px = z.number().min(-100_000).max(100_000)
const sizePx = z.number().min(0).max(100_000)

const common = {
  id: z
    .string()
    .regex(/^[a-z0-9-]{1,64}$/)
    .meta({
      description: 'From what and where it is: the same find has the same id in every survey of the plate',
    }),
  x: px.meta({ description: 'Its middle, px from the left' }),
  y: px,
  firstFrame: frameSchema,
  lastFrame: frameSchema,
  sure: z.number().min(0).max(1),
  crop: z
    .strictObject({ col: z.int().min(0), row: z.int().min(0), width: z.int().min(1), height: z.int().min(1) })
    .optional()
    .meta({ description: 'Whole pixels of the picture around it that show it well, on its first frame' }),
  why: z
    .string()
    .max(400)
    .meta({ description: 'What speaks for it, and where the footage cannot tell, in words' }),
}

/** What single pixels of a sensor may be. */
export const SPOT_CLASSES = [
  'dead',
  'hot',
  'warm',
  'stuck-red',
  'stuck-green',
  'stuck-blue',
  'cluster',
] as const
/** And what whole lines of it may be. */
export const PIXEL_CLASSES = [...SPOT_CLASSES, 'column', 'row'] as const

export const pixelFindSchema = z.strictObject({
  kind: z.literal('pixel'),
  ...common,
  class: z.enum(PIXEL_CLASSES),
  widthPx: sizePx.meta({ description: 'Of all that differs, what demosaicing has spread included' }),
  heightPx: sizePx,
})

export const moteFindSchema = z.strictObject({
  kind: z.literal('mote'),
  ...common,
  radiusXPx: sizePx,
  radiusYPx: sizePx,
  turnDeg: z.number().min(-360).max(360),
  depthStops: z.number().max(0).meta({ description: 'Light that is left in its middle, in stops' }),
})

/** Frames on which a file says where a line runs, or a mark lies. */
export const MAX_KEYS = 2000

export const markFindSchema = z.strictObject({
  kind: z.literal('mark'),
  ...common,
  widthPx: sizePx,
  heightPx: sizePx,
  opacity: z.number().min(0).max(1).meta({ description: 'Share of the picture that it hides' }),
  keys: z
    .array(z.strictObject({ frame: frameSchema, x: px, y: px }))
    .min(1)
    .max(MAX_KEYS)
    .optional()
    .meta({ description: 'Of a mark that travels: where its middle is, and straight between' }),
})

export const lineFindSchema = z.strictObject({
  kind: z.literal('line'),
  ...common,
  class: z
    .enum(['scratch'])
    .optional()
    .meta({ description: 'A scratch of the film; absent for what is in front of the camera' }),
  keys: z
    .array(
      z.strictObject({
        frame: frameSchema,
        points: z
          .array(z.strictObject({ x: px, y: px, widthPx: sizePx }))
          .min(2)
          .max(64),
      }),
    )
    .min(1)
    .max(MAX_KEYS)
    .meta({ description: 'Where it runs, on frames that were looked at' }),
})

/** Specks that one file lists. */
export const MAX_SPECKS = 4000

export const specksFindSchema = z.strictObject({
  kind: z.literal('specks'),
  ...common,
  specks: z
    .array(
      z.strictObject({
        frame: frameSchema,
        x: px,
        y: px,
        lengthPx: sizePx.meta({ description: 'Between the middles of its round ends' }),
        widthPx: sizePx,
        turnDeg: z.number().min(-360).max(360),
      }),
    )
    .min(1)
    .max(MAX_SPECKS)
    .meta({ description: 'Each is there on its frame only' }),
})

export const findSchema = z.discriminatedUnion('kind', [
  pixelFindSchema,
  moteFindSchema,
  markFindSchema,
  lineFindSchema,
  specksFindSchema,
])
export type Find = z.output<typeof findSchema>
export type FindKind = Find['kind']

export const SURVEY_FORMAT = 'fillagrant-survey'
export const SURVEY_VERSION = 1

export const surveySchema = z
  .strictObject({
    format: z.literal(SURVEY_FORMAT),
    version: z.literal(SURVEY_VERSION),
    plate: z.strictObject({
      width: z.int().min(1),
      height: z.int().min(1),
      firstFrame: frameSchema,
      frameCount: z.int().min(1),
    }),
    rest: z
      .enum(['moves', 'rests', 'covered'])
      .meta({ description: 'Whether the camera moves, rests, or has its lens covered' }),
    cuts: z.array(frameSchema).meta({ description: 'Frames from which on the picture is another one' }),
    flashes: z
      .array(z.strictObject({ firstFrame: frameSchema, lastFrame: frameSchema, stops: z.number() }))
      .optional()
      .meta({ description: 'Frames on which the whole picture is lighter, or darker below 0' }),
    flickerStops: z
      .number()
      .min(0)
      .optional()
      .meta({ description: 'By how much the light changes from frame to frame, as a deviation' }),
    finds: z.array(findSchema),
  })
  .meta({ description: 'What a survey of a plate has found' })
export type Survey = z.output<typeof surveySchema>

/** Where a find lies on a frame, px; lines lie elsewhere along their keys. */
export function placeOn(find: Find, frame: Frame): { readonly x: number; readonly y: number } {
  if (find.kind !== 'mark' || !find.keys) return find
  const { keys } = find
  const next = keys.findIndex((key) => key.frame >= frame)
  const [before, after] = [keys[Math.max(0, next - 1)]!, keys[next]]
  if (!after) return keys.at(-1)!
  const share =
    after.frame > before.frame ? Math.max(0, (frame - before.frame) / (after.frame - before.frame)) : 0
  return { x: before.x + share * (after.x - before.x), y: before.y + share * (after.y - before.y) }
}

/** A column or row of the sensor reaches across the picture. */
export const isWholeLine = (find: Find): boolean =>
  find.kind === 'pixel' && (find.class === 'column' || find.class === 'row')

/** The part of the picture around a find that shows it well; inside the picture. */
export function cropOf(find: Find, { width, height }: { readonly width: number; readonly height: number }) {
  const half = Math.min(Math.max(8, 0.75 * longestOf(find)), Math.min(width, height) / 2)
  const side = Math.max(1, Math.round(2 * half))
  const clamp = (at: number, size: number) => Math.max(0, Math.min(Math.round(at - half), size - side))
  return {
    col: clamp(find.x, width),
    row: clamp(find.y, height),
    width: Math.min(side, width),
    height: Math.min(side, height),
  }
}

function longestOf(find: Find): number {
  if (find.kind === 'specks') return Math.max(24, 2 * find.specks[0]!.widthPx)
  if (find.kind === 'mote') return 2 * Math.max(find.radiusXPx, find.radiusYPx)
  if (find.kind === 'line' || isWholeLine(find)) return 60
  return Math.max(find.widthPx, find.heightPx)
}
