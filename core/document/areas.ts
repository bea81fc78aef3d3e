/** Areas as they are stored: a shape, what it is for, how it travels, what it follows. */
import { z } from 'zod'
import { followSchema, frameSchema, idSchema } from './basics'
import { rampAt } from './span'
import { strokeSchema, type Stroke } from './stroke'

const MAX_COORDINATE_PX = 100_000
const coordinateSchema = z.number().min(-MAX_COORDINATE_PX).max(MAX_COORDINATE_PX)
const xSchema = coordinateSchema.meta({ description: 'px from the left edge of the picture' })
const ySchema = coordinateSchema.meta({ description: 'px from the top edge of the picture' })
const turnSchema = z.number().min(-36_000).max(36_000).meta({ description: 'degrees, clockwise' })

/** The limits of a path's width, shared by form, handles and file. */
export const WIDTH_PX = { min: 0.5, max: 400 } as const
/** The limits of a radius or a side. */
export const SIZE_PX = { min: 0.5, max: 20_000 } as const

export const pathPointSchema = z
  .strictObject({
    x: xSchema,
    y: ySchema,
    widthPx: z
      .number()
      .min(WIDTH_PX.min)
      .max(WIDTH_PX.max)
      .meta({ description: 'Full width of the area at this point' }),
  })
  .meta({ description: 'A point of a path' })

export const outlinePointSchema = z
  .strictObject({
    x: xSchema,
    y: ySchema,
    inX: coordinateSchema.meta({
      description: 'Handle towards the point before, relative to the point, px; 0, 0 makes a corner',
    }),
    inY: coordinateSchema,
    outX: coordinateSchema.meta({ description: 'Handle towards the next point, relative to the point, px' }),
    outY: coordinateSchema,
  })
  .meta({
    description:
      'A point of an outline: a cubic Bézier curve runs from each to the next and back to the first',
  })

const sizeSchema = z.number().min(SIZE_PX.min).max(SIZE_PX.max)

export const keySchemas = {
  path: z.strictObject({ frame: frameSchema, points: z.array(pathPointSchema).min(2).max(64) }),
  ellipse: z.strictObject({
    frame: frameSchema,
    x: xSchema,
    y: ySchema,
    radiusXPx: sizeSchema,
    radiusYPx: sizeSchema,
    turnDeg: turnSchema,
  }),
  box: z.strictObject({
    frame: frameSchema,
    x: xSchema,
    y: ySchema,
    widthPx: sizeSchema,
    heightPx: sizeSchema,
    turnDeg: turnSchema,
    cornerPx: z.number().min(0).max(SIZE_PX.max).meta({ description: 'Radius of the rounded corners' }),
  }),
  outline: z.strictObject({ frame: frameSchema, points: z.array(outlinePointSchema).min(3).max(400) }),
}

const common = {
  id: idSchema,
  role: z
    .enum(['cover', 'holdout'])
    .meta({ description: 'cover: replaced. holdout: left alone, taken out of every cover of the mend' }),
  interpolation: z.enum(['smooth', 'linear']).meta({ description: 'How the shape moves between keys' }),
  follow: followSchema.nullable(),
}

export const MOST_KEYS = 10_000
const keysOf = <T extends z.ZodType>(key: T) => z.array(key).min(1).max(MOST_KEYS)

export const pathAreaSchema = z.strictObject({
  shape: z.literal('path'),
  ...common,
  keys: keysOf(keySchemas.path),
  stroke: strokeSchema
    .optional()
    .meta({ description: 'Of a brush: what it lays down along the path, with round ends' }),
})
export const ellipseAreaSchema = z.strictObject({
  shape: z.literal('ellipse'),
  ...common,
  keys: keysOf(keySchemas.ellipse),
})
export const boxAreaSchema = z.strictObject({
  shape: z.literal('box'),
  ...common,
  keys: keysOf(keySchemas.box),
})
export const outlineAreaSchema = z.strictObject({
  shape: z.literal('outline'),
  ...common,
  keys: keysOf(keySchemas.outline),
})
export const matteAreaSchema = z
  .strictObject({
    shape: z.literal('matte'),
    ...common,
    follow: z.null(),
    pattern: z.string().min(1).max(400).meta({
      description:
        'Numbered pictures, white where it covers: a path with %d, %04d or #### for the frame, or "matte:" and the id of an imported one',
    }),
    keys: z.array(z.never()).max(0),
  })
  .meta({ description: 'A matte made elsewhere: one picture for each frame' })

/** What is wrong with an area's keys beside each other: which, of what, and why. */
export function keyFaults(keys: readonly { readonly frame: number; readonly points?: readonly unknown[] }[]) {
  return keys.flatMap((key, i) => [
    ...(i > 0 && key.frame <= keys[i - 1]!.frame
      ? [{ key: i, of: 'frame', message: 'keys must be in rising order of frames, one for each frame' }]
      : []),
    ...(key.points?.length === keys[0]!.points?.length
      ? []
      : [{ key: i, of: 'points', message: 'every key must have the same number of points' }]),
  ])
}

export const areaSchema = z
  .discriminatedUnion('shape', [
    pathAreaSchema,
    ellipseAreaSchema,
    boxAreaSchema,
    outlineAreaSchema,
    matteAreaSchema,
  ])
  .superRefine(({ keys }, context) => {
    for (const { key, of, message } of keyFaults(keys))
      context.addIssue({ code: 'custom', path: ['keys', key, of], message })
  })
  .meta({ description: 'One area of a mend' })

export type Area = z.output<typeof areaSchema>
/** A path that a brush has painted. */
export type StrokeArea = PathArea & { readonly stroke: Stroke }
export type PathArea = z.output<typeof pathAreaSchema>
export type KeyedArea = Exclude<Area, { shape: 'matte' }>
export type Shape = Area['shape']

export type PathKey = z.output<(typeof keySchemas)['path']>
export type EllipseKey = z.output<(typeof keySchemas)['ellipse']>
export type BoxKey = z.output<(typeof keySchemas)['box']>
export type OutlineKey = z.output<(typeof keySchemas)['outline']>
export type OutlinePoint = OutlineKey['points'][number]

/** A keyed shape on one frame. */
export type Geometry =
  | ({ readonly shape: 'path' } & Pick<PathKey, 'points'>)
  | ({ readonly shape: 'ellipse' } & Omit<EllipseKey, 'frame'>)
  | ({ readonly shape: 'box' } & Omit<BoxKey, 'frame'>)
  | ({ readonly shape: 'outline' } & Pick<OutlineKey, 'points'>)

export const isKeyed = (area: Area): area is KeyedArea => area.shape !== 'matte'

/** Whether a stroke is there on a frame, as far as it says itself. */
export const isPaintedAt = ({ stroke: { span, isHidden } }: StrokeArea, frame: number): boolean =>
  !isHidden && rampAt(span, frame) > 0

export const isStroke = (area: Area): area is StrokeArea => area.shape === 'path' && area.stroke !== undefined
