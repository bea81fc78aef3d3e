import { z } from 'zod'
import { straightViewSchema } from '../../core/sphere/straightView'
import { serverContext } from '../../server/context.server'
import { straightLook } from '../../server/straightLook.server'
import type { Route } from './+types/straightLook'

const MAX_SIDE_PX = 900
const number = z.coerce.number()
const placeSchema = z.object({ frame: number.int(), side: number.int().min(16).max(MAX_SIDE_PX) })
const turnSchema = z.object({ headingDeg: number, pitchDeg: number, angleDeg: number })

/** A straight view of an all-round frame, for looking around. */
export async function loader({ params, request }: Route.LoaderArgs) {
  const search = Object.fromEntries(new URL(request.url).searchParams)
  const place = placeSchema.safeParse({ ...search, frame: params.frame })
  const view = straightViewSchema.safeParse(turnSchema.safeParse(search).data)
  const jpeg =
    place.success &&
    view.success &&
    (await straightLook(serverContext(), params.shotId, { ...place.data, ...view.data }))
  if (!jpeg) throw new Response('There is no such view.', { status: 404 })
  return new Response(new Uint8Array(jpeg), {
    headers: { 'Content-Type': 'image/jpeg', 'Cache-Control': 'private, max-age=31536000, immutable' },
  })
}
