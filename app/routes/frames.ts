import { serverContext } from '../../server/context.server'
import { rgba8FromSamples } from '../../core/image/samples'
import { findPlate, readFrame, readRectangle } from '../../server/plateFrames.server'
import type { Route } from './+types/frames'

/**
 * A frame's samples: the plate's own (16-bit ones low byte first), or with `?as=rgba8` for a canvas.
 * `?col&row&width&height` asks for a part. A plate never changes, so browsers may keep them.
 */
export async function loader({ request, params }: Route.LoaderArgs) {
  const context = serverContext()
  const search = new URL(request.url).searchParams
  const plate = await findPlate(context, params.plateId)
  const frame = plate && readFrame(plate, params.frame)
  const rect = plate && readRectangle(plate, search)
  if (!plate || frame === null || !rect) throw new Response('There is no such frame.', { status: 404 })
  const samples = await context.frames.readRect(plate.id, plate, frame, rect)
  const bytes =
    search.get('as') === 'rgba8'
      ? rgba8FromSamples(samples)
      : new Uint8Array(samples.data.buffer, samples.data.byteOffset, samples.data.byteLength)
  return new Response(bytes as Uint8Array<ArrayBuffer>, {
    headers: {
      'Content-Type': 'application/octet-stream',
      'Cache-Control': 'private, max-age=31536000, immutable',
    },
  })
}
