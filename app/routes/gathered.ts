import { serverContext } from '../../server/context.server'
import { createDirectoryResultStore, resultKeySchema } from '../../server/results/resultStore.server'
import { findPlate } from '../../server/plateFrames.server'
import type { Route } from './+types/gathered'

/** What a worker has gathered under that name; 204 where none has. */
export async function loader({ params }: Route.LoaderArgs) {
  const context = serverContext()
  const key = resultKeySchema.safeParse(params.key)
  const plate = await findPlate(context, params.plateId)
  if (!plate || !key.success) throw new Response('There is no such plate.', { status: 404 })
  const bytes = await createDirectoryResultStore(context.folders.gathered, plate.id).read(key.data)
  if (!bytes) return new Response(null, { status: 204, headers: { 'Cache-Control': 'no-store' } })
  return new Response(bytes as Uint8Array<ArrayBuffer>, {
    headers: { 'Content-Type': 'application/octet-stream', 'Cache-Control': 'no-store' },
  })
}
