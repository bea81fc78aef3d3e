import { z } from 'zod'
import { serverContext } from '../../server/context.server'
import { cropSubject, proofCrop } from '../../server/proofCrops.server'
import type { Route } from './+types/proofCrop'

const askedSchema = z.object({
  version: z.uuid().nullable(),
  frame: z.coerce.number().int(),
  x: z.coerce.number(),
  y: z.coerce.number(),
})

/** Plate, result and difference at a place, side by side. */
export async function loader({ params, request }: Route.LoaderArgs) {
  const search = new URL(request.url).searchParams
  const asked = askedSchema.safeParse({ version: null, ...Object.fromEntries(search) })
  const context = serverContext()
  const subject = asked.success ? await cropSubject(context, params.shotId, asked.data.version) : null
  const png = subject && asked.success && (await proofCrop(context, subject, asked.data.frame, asked.data))
  if (!png) throw new Response('This place is not worked out.', { status: 404 })
  // The same address may show another result tomorrow: mends change.
  return new Response(new Uint8Array(png), { headers: { 'Content-Type': 'image/png', 'Cache-Control': 'private, max-age=5' } }) // prettier-ignore
}
