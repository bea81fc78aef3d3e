/** Still pictures brought into a shot: each lies in the frame store as a plate of one frame, of the shot's own size and depth. */
import { createWriteStream } from 'node:fs'
import { mkdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { randomUUID } from 'node:crypto'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import type { ReadableStream as WebStream } from 'node:stream/web'
import { z } from 'zod'
import type { Rect } from '../core/image/rect'
import type { Samples } from '../core/image/samples'
import type { PlateShape } from '../core/shot/clip'
import type { ServerContext } from './context.server'
import { requireRoom } from './room.server'
import { StorageError, type FrameStore } from './frames/store.server'
import { boundedTo } from './media/boundedTo'
import { readPictureApart } from './media/apartPicture.server'

const MAX_BYTES = 256 * 2 ** 20
const STILL_FRAME = 0
export const STILL_PREFIX = 'still:'

export const stillIdSchema = z.uuid()

/**
 * Takes a picture and keeps it under a name of its own.
 * @returns The name, as fills store it. @throws MediaError in words when it is no picture.
 */
export async function receiveStill(
  context: ServerContext,
  body: WebStream,
  plate: PlateShape,
  shownName: string,
): Promise<string> {
  const id = randomUUID()
  await mkdir(context.folders.uploads, { recursive: true })
  await requireRoom(context.folders.uploads)
  const incoming = join(context.folders.uploads, `${id}.still`)
  try {
    await pipeline(
      Readable.fromWeb(body),
      boundedTo(MAX_BYTES, 'A still may have 256 MB at most. Nothing was kept of it.'),
      createWriteStream(incoming),
    )
    const samples = await readPictureApart({ kind: 'still', path: incoming, shownName, plate })
    const writer = await context.frames.createWriter(id)
    await writer.write(STILL_FRAME, samples)
    await writer.commit()
    return `${STILL_PREFIX}${id}`
  } finally {
    await rm(incoming, { force: true })
  }
}

/** Part of a still; null where there is none of that name. */
export async function readImportedStill(
  frames: FrameStore,
  plate: PlateShape,
  name: string,
  rect: Rect,
): Promise<Samples | null> {
  const id = stillIdSchema.safeParse(name.slice(STILL_PREFIX.length))
  if (!name.startsWith(STILL_PREFIX) || !id.success) return null
  return frames.readRect(id.data, plate, STILL_FRAME, rect).catch((cause: unknown) => {
    if (cause instanceof StorageError && cause.code === 'missing') return null
    throw cause
  })
}
