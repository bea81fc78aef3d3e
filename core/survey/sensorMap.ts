/**
 * Sensor maps: the bad pixels and dust of a camera body, in px of its whole sensor, to be applied to any shot of that camera. Kept as
 * JSON, or as a table (CSV as in RFC 4180).
 */
import Papa from 'papaparse'
import { z } from 'zod'
import { moteFindSchema, pixelFindSchema, type Find } from './finds'
import type { Size } from '../image/rect'

export const SENSOR_MAP_FORMAT = 'fillagrant-sensor-map'

const placed = { x: true, y: true } as const
const mapPixelSchema = pixelFindSchema.pick({ ...placed, class: true, widthPx: true, heightPx: true })
const mapMoteSchema = moteFindSchema.pick({
  ...placed,
  radiusXPx: true,
  radiusYPx: true,
  turnDeg: true,
  depthStops: true,
})

const sideSchema = z.int().min(1).max(100_000)

export const sensorMapSchema = z.strictObject({
  format: z.literal(SENSOR_MAP_FORMAT),
  version: z.literal(1),
  camera: z.string().trim().min(1).max(80),
  /** The day on which the clip was shot that tells it; dust moves, pixels go bad. */
  madeOn: z.iso.date().refine((day) => day >= '1900', 'a day of this age of cameras'),
  sensor: z.strictObject({ width: sideSchema, height: sideSchema }),
  pixels: z.array(mapPixelSchema).max(20_000),
  motes: z.array(mapMoteSchema).max(2000),
})
export type SensorMap = z.output<typeof sensorMapSchema>

/** How a plate shows the sensor: all of it, brought to the plate's size; or its middle, pixel for pixel. */
export const READOUTS = ['scaled', 'cropped'] as const
export type Readout = (typeof READOUTS)[number]

/** How a plate most likely shows a sensor: as all of it where the shapes agree. */
export const likelyReadout = (sensor: Size, plate: Size): Readout =>
  sensor.width * plate.height === sensor.height * plate.width ? 'scaled' : 'cropped'

/** Plate px from sensor px: a factor, then a shift. */
function readoutOf(sensor: Size, plate: Size, readout: Readout) {
  if (readout === 'scaled')
    return { scaleX: plate.width / sensor.width, scaleY: plate.height / sensor.height, left: 0, top: 0 }
  return {
    scaleX: 1,
    scaleY: 1,
    left: (plate.width - sensor.width) / 2,
    top: (plate.height - sensor.height) / 2,
  }
}

/** A map from finds of a plate that shows the sensor so; finds that do not belong to a camera are left out. */
export function mapFromFinds(
  finds: readonly Find[],
  plate: Size,
  {
    camera,
    madeOn,
    sensor,
    readout,
  }: Pick<SensorMap, 'camera' | 'madeOn' | 'sensor'> & { readonly readout: Readout },
): SensorMap {
  const { scaleX, scaleY, left, top } = readoutOf(sensor, plate, readout)
  const place = (find: { readonly x: number; readonly y: number }) => ({
    x: (find.x - left) / scaleX,
    y: (find.y - top) / scaleY,
  })
  return {
    format: SENSOR_MAP_FORMAT,
    version: 1,
    camera,
    madeOn,
    sensor,
    pixels: finds.flatMap((find) =>
      find.kind === 'pixel'
        ? {
            ...place(find),
            class: find.class,
            widthPx: find.widthPx / scaleX,
            heightPx: find.heightPx / scaleY,
          }
        : [],
    ),
    motes: finds.flatMap((find) => {
      if (find.kind !== 'mote') return []
      const { radiusXPx, radiusYPx, turnDeg, depthStops } = find
      return {
        ...place(find),
        radiusXPx: radiusXPx / scaleX,
        radiusYPx: radiusYPx / scaleY,
        turnDeg,
        depthStops,
      }
    }),
  }
}

/** A pixel is never covered by less than itself and what is spread of it, however small the sensor is shown. */
const MIN_PIXEL_PX = 3

/** What of a map a plate shows, as finds of that plate, always there. */
export function findsOfMap(
  map: SensorMap,
  plate: Size & { readonly firstFrame: number; readonly lastFrame: number },
  readout: Readout,
): Find[] {
  const { scaleX, scaleY, left, top } = readoutOf(map.sensor, plate, readout)
  const always = {
    firstFrame: plate.firstFrame,
    lastFrame: plate.lastFrame,
    sure: 1,
    why: `On the sensor map of ${map.camera}, ${map.madeOn}.`,
  }
  const place = (one: { readonly x: number; readonly y: number }) => ({
    x: one.x * scaleX + left,
    y: one.y * scaleY + top,
  })
  const isInside = ({ x, y }: { readonly x: number; readonly y: number }) =>
    x >= 0 && y >= 0 && x < plate.width && y < plate.height
  const idOf = (what: string, { x, y }: { readonly x: number; readonly y: number }) =>
    `${what}-${Math.floor(x)}-${Math.floor(y)}`
  const sized = (px: number, scale: number) => Math.max(MIN_PIXEL_PX, Math.ceil(px * scale))
  return [
    ...map.pixels.map((pixel): Find => {
      const at = place(pixel)
      const [widthPx, heightPx] = [sized(pixel.widthPx, scaleX), sized(pixel.heightPx, scaleY)]
      return { kind: 'pixel', id: idOf('px', at), ...at, class: pixel.class, widthPx, heightPx, ...always }
    }),
    ...map.motes.map((mote): Find => {
      const at = place(mote)
      const { turnDeg, depthStops } = mote
      return {
        kind: 'mote',
        id: idOf('mote', at),
        ...at,
        radiusXPx: mote.radiusXPx * scaleX,
        radiusYPx: mote.radiusYPx * scaleY,
        turnDeg,
        depthStops,
        ...always,
      }
    }),
  ].filter(isInside)
}

/** Places of two maps that are no further apart are the same one. */
const SAME_PX = 1.5

/** Both maps of one camera: bad pixels of either, since they stay bad; dust of the later one, since it moves. @throws RangeError for different sensors. */
export function mergeMaps(a: SensorMap, b: SensorMap): SensorMap {
  if (a.sensor.width !== b.sensor.width || a.sensor.height !== b.sensor.height) {
    throw new RangeError(
      `both maps must be of the same sensor. One has ${a.sensor.width} × ${a.sensor.height}, the other ${b.sensor.width} × ${b.sensor.height} px`,
    )
  }
  const [older, newer] = a.madeOn <= b.madeOn ? [a, b] : [b, a]
  const isKnown = (pixel: SensorMap['pixels'][number]) =>
    newer.pixels.some((one) => Math.max(Math.abs(one.x - pixel.x), Math.abs(one.y - pixel.y)) <= SAME_PX)
  return { ...newer, pixels: [...newer.pixels, ...older.pixels.filter((pixel) => !isKnown(pixel))] }
}

const COLUMNS = [
  'camera',
  'made_on',
  'sensor_width',
  'sensor_height',
  'kind',
  'class',
  'x',
  'y',
  'width',
  'height',
  'turn',
  'depth',
] as const
type Row = Readonly<Record<(typeof COLUMNS)[number], string | number>>

/** One line for each place; camera, day and sensor stand on every line, so that lines of any table can be sorted and joined. */
export function mapToCsv({ camera, madeOn, sensor, pixels, motes }: SensorMap): string {
  const common = { camera, made_on: madeOn, sensor_width: sensor.width, sensor_height: sensor.height }
  const rows: Row[] = [
    ...pixels.map(({ x, y, class: kind, widthPx, heightPx }) => ({
      ...common,
      kind: 'pixel',
      class: kind,
      x,
      y,
      width: widthPx,
      height: heightPx,
      turn: '',
      depth: '',
    })),
    ...motes.map(({ x, y, radiusXPx, radiusYPx, turnDeg, depthStops }) => ({
      ...common,
      kind: 'mote',
      class: '',
      x,
      y,
      width: 2 * radiusXPx,
      height: 2 * radiusYPx,
      turn: turnDeg,
      depth: depthStops,
    })),
  ]
  return `${Papa.unparse(rows, { columns: [...COLUMNS], newline: '\n' })}\n`
}

export type MapResult =
  { readonly ok: true; readonly map: SensorMap } | { readonly ok: false; readonly detail: string }

/** A map from its text: JSON, or a table. What is wrong with it is said in words. */
export function readSensorMap(text: string): MapResult {
  const isJson = text.trimStart().startsWith('{')
  let value: unknown
  try {
    value = isJson ? JSON.parse(text) : rowsToMap(text)
  } catch (cause) {
    return { ok: false, detail: isJson ? 'It is not JSON.' : (cause as Error).message }
  }
  const result = sensorMapSchema.safeParse(value)
  if (result.success) return { ok: true, map: result.data }
  const [issue] = result.error.issues
  return { ok: false, detail: `${issue?.path.join('.')}: ${issue?.message}.` }
}

function rowsToMap(text: string): unknown {
  const { data, meta } = Papa.parse<Record<string, string>>(text, { header: true, skipEmptyLines: true })
  const missing = COLUMNS.filter((name) => !meta.fields?.includes(name))
  if (missing.length > 0) throw new RangeError(`The table lacks the columns ${missing.join(', ')}.`)
  const [first] = data
  if (!first) throw new RangeError('The table has no line.')
  const of = (kind: string) => data.filter((row) => row['kind'] === kind)
  const strange = data.find((row) => row['kind'] !== 'pixel' && row['kind'] !== 'mote')
  if (strange) throw new RangeError(`A line is of the kind “${strange['kind']}”; there are pixel and mote.`)
  return {
    format: SENSOR_MAP_FORMAT,
    version: 1,
    camera: first['camera'],
    madeOn: first['made_on'],
    sensor: { width: numberOf(first['sensor_width']), height: numberOf(first['sensor_height']) },
    pixels: of('pixel').map((row) => ({
      x: numberOf(row['x']),
      y: numberOf(row['y']),
      class: row['class'],
      widthPx: numberOf(row['width']),
      heightPx: numberOf(row['height']),
    })),
    motes: of('mote').map((row) => ({
      x: numberOf(row['x']),
      y: numberOf(row['y']),
      radiusXPx: numberOf(row['width']) / 2,
      radiusYPx: numberOf(row['height']) / 2,
      turnDeg: numberOf(row['turn']),
      depthStops: numberOf(row['depth']),
    })),
  }
}

/** Nothing is no number: what is empty is refused, never 0. */
const numberOf = (text: string | undefined): number =>
  text === undefined || text.trim() === '' ? NaN : Number(text)
