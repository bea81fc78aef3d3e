/** Matte sequences brought into a shot: one greymap for each frame, in a folder of their own. */
import { createWriteStream } from 'node:fs'
import { rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { randomUUID } from 'node:crypto'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import type { ReadableStream as WebStream } from 'node:stream/web'
import { z } from 'zod'
import type { ReadMatte } from '../core/matte/pictureMatte'
import type { ServerContext } from './context.server'
import { makeFolder, putInPlace } from './durable.server'
import { requireRoom } from './room.server'
import { boundedTo } from './media/boundedTo'
import { pgmOf, readMattePicture, readStoredMatte } from './media/matte.server'
import { MediaError } from './media/mediaError'

const MAX_BYTES = 256 * 2 ** 20
/** A picture of another size is told its size, unless it is larger than so many plates: then it is not decoded at all. */
const MAX_SIZES = 4
export const IMPORTED_PREFIX = 'matte:'

export const mattePlaceSchema = z.object({
  matteId: z.uuid(),
  frame: z.coerce.number().int().min(0).max(10_000_000),
})
export type MattePlace = z.output<typeof mattePlaceSchema>

const fileOf = (folder: string, { matteId, frame }: MattePlace): string =>
  join(folder, matteId, `${String(frame).padStart(7, '0')}.pgm`)

/**
 * Takes one picture of a sequence. Written under a temporary name and renamed, so that sending it again is harmless.
 * @throws MediaError in words when it is no matte of the plate's size.
 */
export async function receiveMatte(
  context: ServerContext,
  place: MattePlace,
  ending: string,
  body: WebStream,
  size: { readonly width: number; readonly height: number },
  shownName: string,
): Promise<void> {
  await makeFolder(context.folders.uploads)
  await requireRoom(context.folders.uploads)
  const incoming = join(context.folders.uploads, `${randomUUID()}.matte${ending}`)
  const partial = `${incoming}.pgm`
  const limit = boundedTo(MAX_BYTES, 'A matte may have 256 MB at most. Nothing was kept of it.')
  try {
    await pipeline(Readable.fromWeb(body), limit, createWriteStream(incoming))
    const picture = await readMattePicture(
      incoming,
      MAX_SIZES * size.width * size.height,
      undefined,
      shownName,
    )
    if (picture.width !== size.width || picture.height !== size.height) {
      throw new MediaError(
        'uneven',
        `${shownName} is ${picture.width} × ${picture.height} px; the plate is ${size.width} × ${size.height} px. Nothing was kept of it.`,
      )
    }
    await makeFolder(join(context.folders.mattes, place.matteId))
    await writeFile(partial, pgmOf(picture))
    await putInPlace(partial, fileOf(context.folders.mattes, place))
  } finally {
    await rm(incoming, { force: true })
    await rm(partial, { force: true })
  }
}

/** The matte of a frame from an imported sequence; null for patterns of files, which only the command line reads. */
export async function readImportedMatte(
  folder: string,
  pattern: string,
  frame: number,
): Promise<ReadMatte | null> {
  if (!pattern.startsWith(IMPORTED_PREFIX)) return null
  const place = mattePlaceSchema.safeParse({ matteId: pattern.slice(IMPORTED_PREFIX.length), frame })
  return place.success ? readStoredMatte(fileOf(folder, place.data)) : null
}
