/** Frames of a plate for the browser: exact samples for computing, RGBA for looking. */
import { eq } from 'drizzle-orm'
import { z } from 'zod'
import { intersectRects, wholePicture, type Rect, type Size } from '../core/image/rect'
import type { BitDepth } from '../core/image/samples'
import type { ServerContext } from './context.server'
import { plates } from './db/schema'
import type { PlateReference } from '../workers/protocol'
import type { StoredShape } from './frames/store.server'

export interface ServedPlate extends StoredShape {
  readonly id: string
  readonly firstFrame: number
  readonly frameCount: number
}

export async function findPlate(
  context: ServerContext,
  plateId: string | undefined,
): Promise<ServedPlate | null> {
  const id = z.uuid().safeParse(plateId)
  if (!id.success) return null
  const known = context.plates.get(id.data)
  if (known) return known
  const [row] = await context.database.db.select().from(plates).where(eq(plates.id, id.data))
  if (!row) return null
  const plate = { ...row, bitDepth: row.bitDepth as BitDepth }
  context.plates.set(id.data, plate) // a plate never changes
  return plate
}

/** The frame number from an address, or null when the plate has no such frame. */
export function readFrame(plate: ServedPlate, text: string | undefined): number | null {
  const frame = z.coerce.number().int().safeParse(text)
  return frame.success && frame.data >= plate.firstFrame && frame.data < plate.firstFrame + plate.frameCount
    ? frame.data
    : null
}

const rectSchema = z.object({
  col: z.coerce.number().int(),
  row: z.coerce.number().int(),
  width: z.coerce.number().int().min(1),
  height: z.coerce.number().int().min(1),
})

/** The rectangle that an address asks for; the whole picture when it names none. */
export function readRectangle(plate: Size, search: URLSearchParams): Rect | null {
  if (!search.has('col')) return wholePicture(plate)
  const asked = rectSchema.safeParse(Object.fromEntries(search))
  return asked.success ? rectOf(plate, asked.data) : null
}

/** A rectangle, or null when it does not lie inside the picture. */
export function rectOf(plate: Size, asked: Rect): Rect | null {
  const inside = intersectRects(asked, wholePicture(plate))
  return inside && inside.width === asked.width && inside.height === asked.height ? inside : null
}

/** A plate as compute workers of the server know it. */
export function plateReference(
  { folders }: ServerContext,
  plate: typeof plates.$inferSelect,
): PlateReference {
  return {
    plateId: plate.id,
    width: plate.width,
    height: plate.height,
    channels: plate.channels,
    bitDepth: plate.bitDepth as BitDepth,
    location: folders.frames,
    matteLocation: folders.mattes,
    markLocation: folders.marks,
    stillLocation: folders.frames,
    resultLocation: folders.results,
  }
}
