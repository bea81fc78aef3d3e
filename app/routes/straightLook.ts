import { z } from 'zod'
import { straightViewSchema } from '../../core/sphere/straightView'
import { serverContext } from '../../server/context.server'
import { straightLook } from '../../server/straightLook.server'
import type { Route } from './+types/straightLook'

const MAX_SIDE_PX = 900
const number = z.coerce.number()
const askedSchema = z.object({
  frame: number.int(),
  headingDeg: number,
  pitchDeg: number,
  angleDeg: number,
  side: number.int().min(16).max(MAX_SIDE_PX),
})

/** A straight view of an all-round frame, for looking around. */
export async function loader({ params, request }: Route.LoaderArgs) {
  const asked = askedSchema.safeParse({
    ...Object.fromEntries(new URL(request.url).searchParams),
    frame: params.frame,
  })
  const view = asked.success && straightViewSchema.safeParse({ headingDeg: asked.data.headingDeg, pitchDeg: asked.data.pitchDeg, angleDeg: asked.data.angleDeg }) // prettier-ignore
  const jpeg = asked.success && view && view.success && (await straightLook(serverContext(), params.shotId, asked.data.frame, view.data, asked.data.side)) // prettier-ignore
  if (!jpeg) throw new Response('There is no such view.', { status: 404 })
  return new Response(new Uint8Array(jpeg), {
    headers: { 'Content-Type': 'image/jpeg', 'Cache-Control': 'private, max-age=31536000, immutable' },
  })
}
