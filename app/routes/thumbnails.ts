import { serverContext } from '../../server/context.server'
import { findPlate, readFrame, thumbnailOf } from '../../server/plateFrames.server'
import type { Route } from './+types/thumbnails'

const THUMBNAIL_WIDTH_PX = 480

export async function loader({ params }: Route.LoaderArgs) {
  const context = serverContext()
  const plate = await findPlate(context, params.plateId)
  const frame = plate && readFrame(plate, params.frame)
  if (!plate || frame === null) throw new Response('There is no such frame.', { status: 404 })
  const jpeg = await thumbnailOf(context, plate, frame, THUMBNAIL_WIDTH_PX)
  return new Response(new Uint8Array(jpeg), {
    headers: { 'Content-Type': 'image/jpeg', 'Cache-Control': 'private, max-age=31536000, immutable' },
  })
}
