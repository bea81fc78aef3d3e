/** Pictures of marks, kept for every shot: one PNG with alpha for each, under a name of its own. */
import { createWriteStream, existsSync } from 'node:fs'
import { readFile, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { randomUUID } from 'node:crypto'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import type { ReadableStream as WebStream } from 'node:stream/web'
import { z } from 'zod'
import type { Samples } from '../core/image/samples'
import { markFromSamples, type MarkPicture } from '../core/image/markPicture'
import { makeFolder, putInPlace } from './durable.server'
import { readPictureApart } from './media/apartPicture.server'
import { requireRoom } from './room.server'
import { boundedTo } from './media/boundedTo'
import { markPng, MAX_MARK_PX, readMarkPicture } from './media/markPicture.server'
import { MediaError } from './media/mediaError'

export const MARK_PREFIX = 'mark:'
const MAX_BYTES = 64 * 2 ** 20
/** Of the largest mark. */
export const MAX_SAMPLE_BYTES = MAX_MARK_PX * MAX_MARK_PX * 4 * 2
const CHANNELS = 4

export const markIdSchema = z.uuid()
/** Sides of a picture that is sent as samples. */
export const markSizeSchema = z.object({
  width: z.coerce.number().int().min(1).max(MAX_MARK_PX),
  height: z.coerce.number().int().min(1).max(MAX_MARK_PX),
})

const fileOf = (folder: string, id: string): string => join(folder, `${id}.png`)

/** Keeps what was worked out from a shot: 16-bit samples, colour and straight alpha. @throws MediaError in words. */
export async function receiveMarkSamples(
  folder: string,
  size: z.output<typeof markSizeSchema>,
  body: Uint8Array<ArrayBuffer>,
): Promise<string> {
  const count = size.width * size.height * CHANNELS
  if (body.byteLength !== 2 * count)
    throw new MediaError(
      'unreadable',
      'The mark’s picture came incomplete. Nothing was kept of it; send it again.',
    )
  const png = await markPng({ ...size, channels: CHANNELS, data: new Uint16Array(body.slice().buffer) })
  return keep(folder, (partial) => writeFile(partial, png))
}

/** Takes a picture with alpha that was made elsewhere. @throws MediaError in words when it is none. */
export async function receiveMarkFile(folder: string, body: WebStream, shownName: string): Promise<string> {
  await makeFolder(folder)
  const incoming = join(folder, `${randomUUID()}.incoming`)
  try {
    await pipeline(
      Readable.fromWeb(body),
      boundedTo(MAX_BYTES, 'The picture of a mark may have 64 MB at most. Nothing was kept of it.'),
      createWriteStream(incoming),
    )
    const png = await markPng(await readPictureApart({ kind: 'mark', path: incoming, shownName }))
    return await keep(folder, (partial) => writeFile(partial, png))
  } finally {
    await rm(incoming, { force: true })
  }
}

async function keep(folder: string, write: (partial: string) => Promise<void>): Promise<string> {
  await makeFolder(folder)
  await requireRoom(folder)
  const id = randomUUID()
  const partial = `${fileOf(folder, id)}.partial`
  try {
    await write(partial)
    await putInPlace(partial, fileOf(folder, id))
  } finally {
    await rm(partial, { force: true })
  }
  return `${MARK_PREFIX}${id}`
}

function pathOf(folder: string, name: string): string | null {
  const id = markIdSchema.safeParse(name.slice(MARK_PREFIX.length))
  if (!name.startsWith(MARK_PREFIX) || !id.success) return null
  const path = fileOf(folder, id.data)
  return existsSync(path) ? path : null
}

/** null where there is none of that name. */
export async function readMarkSamples(folder: string, name: string): Promise<Samples | null> {
  const path = pathOf(folder, name)
  return path === null ? null : readMarkPicture(path)
}

export async function readMark(folder: string, name: string): Promise<MarkPicture | null> {
  const samples = await readMarkSamples(folder, name)
  return samples && markFromSamples(samples)
}

/** The file itself, to be handed on; null where there is none of that name. */
export async function readMarkFile(folder: string, name: string): Promise<Buffer | null> {
  const path = pathOf(folder, name)
  return path === null ? null : readFile(path)
}
