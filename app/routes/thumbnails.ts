import { z } from 'zod'
import { serverContext } from '../../server/context.server'
import { mendedThumbnail } from '../../server/thumbnails.server'
import type { Route } from './+types/thumbnails'

const THUMBNAIL_WIDTH_PX = 480
const askedSchema = z.object({ frame: z.coerce.number().int(), revision: z.coerce.number().int().min(0) })

/** A frame of a shot as it is mended at a revision. */
export async function loader({ params, request }: Route.LoaderArgs) {
  const revision = new URL(request.url).searchParams.get('revision')
  const asked = askedSchema.safeParse({ frame: params.frame, revision })
  const made =
    asked.success &&
    (await mendedThumbnail(
      serverContext(),
      params.shotId,
      asked.data.revision,
      asked.data.frame,
      THUMBNAIL_WIDTH_PX,
    ))
  if (!made) throw new Response('There is no such frame.', { status: 404 })
  return new Response(new Uint8Array(made.jpeg), {
    headers: {
      'Content-Type': 'image/jpeg',
      // What was not worked out yet may be, the next time.
      'Cache-Control': made.isMended ? 'private, max-age=31536000, immutable' : 'private, max-age=5',
    },
  })
}
