import { z } from 'zod'
import { serverContext } from '../../server/context.server'
import { findPlate } from '../../server/plateFrames.server'
import { coreStamp } from '../../server/results/coreStamp.server'
import { isResultOf } from '../../server/results/resultOfPlate.server'
import { createDirectoryResultStore, resultKeySchema } from '../../server/results/resultStore.server'
import { readBytes } from '../../server/requestBody.server'
import type { Route } from './+types/results'

/** More are asked for in several requests. */
const MAX_KEYS = 64
const MAX_RESULT_BYTES = 64 * 2 ** 20
const keysSchema = z.array(resultKeySchema).min(1).max(MAX_KEYS)

const open = async (plateId: string) => {
  const context = serverContext()
  const plate = await findPlate(context, plateId)
  if (!plate) throw new Response('There is no such plate.', { status: 404 })
  return { plate, store: createDirectoryResultStore(context.folders.results, plate.id) }
}

/** Pages of an older core neither read nor write what this one has made. */
function requireSameCore(url: URL): void {
  if (url.searchParams.get('core') !== coreStamp())
    throw new Response('This page is of another version. Load it again.', { status: 409 })
}

/** Results by name (`?keys=`, separated by commas): for each its length as 32 bits, low byte first, 0 where there is none; then its bytes. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const url = new URL(request.url)
  requireSameCore(url)
  const keys = keysSchema.safeParse(url.searchParams.get('keys')?.split(','))
  if (!keys.success) throw new Response('These are no names of results.', { status: 400 })
  const { store } = await open(params.plateId)
  const found = await Promise.all(keys.data.map((key) => store.read(key)))
  const parts = found.flatMap((bytes) => [lengthBytes(bytes?.length ?? 0), ...(bytes ? [bytes] : [])])
  return new Response(Buffer.concat(parts), {
    headers: { 'Content-Type': 'application/octet-stream', 'Cache-Control': 'no-store' },
  })
}

const lengthBytes = (length: number): Buffer => {
  const bytes = Buffer.alloc(4)
  bytes.writeUInt32LE(length)
  return bytes
}

/** Takes a result that a page has worked out: all others, and a render, find it here. */
export async function action({ request, params }: Route.ActionArgs) {
  const url = new URL(request.url)
  requireSameCore(url)
  const key = resultKeySchema.safeParse(url.searchParams.get('key'))
  if (!key.success) throw new Response('This is no name of a result.', { status: 400 })
  const bytes = new Uint8Array(await readBytes(request, MAX_RESULT_BYTES))
  const { plate, store } = await open(params.plateId)
  if (!isResultOf(plate, bytes)) throw new Response('This is no result of this plate.', { status: 400 })
  await store.write(key.data, bytes)
  return new Response(null, { status: 204 })
}
