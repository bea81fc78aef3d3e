import { serverContext } from '../../server/context.server'
import { findPlate } from '../../server/plateFrames.server'
import { lookSchema, readLook } from '../../server/surveys.server'
import type { Route } from './+types/looks'

/** A picture of a whole clip, made by its survey; 204 before there was one. */
export async function loader({ params }: Route.LoaderArgs) {
  const context = serverContext()
  const look = lookSchema.safeParse(params.look)
  const plate = await findPlate(context, params.plateId)
  if (!plate || !look.success) throw new Response('There is no such picture.', { status: 404 })
  const png = await readLook(context.folders.looks, plate.id, look.data)
  if (!png) return new Response(null, { status: 204, headers: { 'Cache-Control': 'no-store' } })
  return new Response(new Uint8Array(png), {
    headers: { 'Content-Type': 'image/png', 'Cache-Control': 'no-cache' },
  })
}
