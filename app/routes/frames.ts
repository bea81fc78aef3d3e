import { serverContext } from '../../server/context.server'
import { rgba8FromSamples, type Samples } from '../../core/image/samples'
import { halved } from '../../core/view/proxy'
import { findPlate, readFrame, readRectangle } from '../../server/plateFrames.server'
import type { Route } from './+types/frames'

/**
 * A frame's samples: the plate's own (16-bit ones low byte first), or for a canvas: `?as=rgba8`, and `?as=proxy` at half the size.
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
  const bytes = bytesAs(search.get('as'), samples)
  return new Response(bytes as Uint8Array<ArrayBuffer>, {
    headers: {
      'Content-Type': 'application/octet-stream',
      'Cache-Control': 'private, max-age=31536000, immutable',
    },
  })
}

function bytesAs(as: string | null, samples: Samples): Uint8Array | Uint8ClampedArray {
  if (as === 'rgba8') return rgba8FromSamples(samples)
  if (as === 'proxy') return halved({ ...samples, data: rgba8FromSamples(samples) }).data
  return new Uint8Array(samples.data.buffer, samples.data.byteOffset, samples.data.byteLength)
}
