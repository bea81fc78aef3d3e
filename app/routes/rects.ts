import { z } from 'zod'
import { serverContext } from '../../server/context.server'
import { findPlate, readFrame, rectOf } from '../../server/plateFrames.server'
import { readCommand } from '../../server/requestBody.server'
import type { Route } from './+types/rects'

const MAX_RECTS = 512
const MAX_BYTES = 128 * 2 ** 20
const number = z.int().min(0)
const bodySchema = z
  .array(z.strictObject({ frame: number, col: number, row: number, width: number, height: number }))
  .min(1)
  .max(MAX_RECTS)

/** Rectangles of frames in one answer: their samples one after the other (16-bit ones low byte first), in the order asked. */
export async function action({ request, params }: Route.ActionArgs) {
  const context = serverContext()
  const plate = await findPlate(context, params.plateId)
  if (!plate) throw new Response('There is no such plate.', { status: 404 })
  const body = bodySchema.safeParse(await readCommand(request))
  if (!body.success) throw new Response('These are no rectangles of frames.', { status: 400 })
  const pixelBytes = (plate.channels * plate.bitDepth) / 8
  const bytes = body.data.reduce((sum, { width, height }) => sum + width * height * pixelBytes, 0)
  if (bytes > MAX_BYTES) throw new Response('This is too much at once.', { status: 413 })
  const read = body.data.map(async (wanted) => {
    const [frame, rect] = [readFrame(plate, String(wanted.frame)), rectOf(plate, wanted)]
    if (frame === null || !rect) throw new Response('There is no such frame.', { status: 404 })
    const { data } = await context.frames.readRect(plate.id, plate, frame, rect)
    return new Uint8Array(data.buffer, data.byteOffset, data.byteLength)
  })
  return new Response(Buffer.concat(await Promise.all(read)), {
    headers: { 'Content-Type': 'application/octet-stream', 'Cache-Control': 'no-store' },
  })
}
