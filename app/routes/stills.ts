import type { ReadableStream as WebStream } from 'node:stream/web'
import type { BitDepth } from '../../core/image/samples'
import { serverContext } from '../../server/context.server'
import { readRectangle } from '../../server/plateFrames.server'
import { shownNameIn } from '../../server/requestBody.server'
import { findShot } from '../../server/shots.server'
import { readImportedStill, receiveStill, STILL_PREFIX } from '../../server/stills.server'
import type { Route } from './+types/stills'

/** Part of a still as raw samples, as frames are served. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const context = serverContext()
  const found = await findShot(context.database.db, params.shotId)
  const plate = found && { ...found.plate, bitDepth: found.plate.bitDepth as BitDepth }
  const rect = plate && readRectangle(plate, new URL(request.url).searchParams)
  const samples =
    rect && params.stillId
      ? await readImportedStill(context.frames, plate, STILL_PREFIX + params.stillId, rect)
      : null
  if (!samples) throw new Response('There is no such still.', { status: 404 })
  const { buffer, byteOffset, byteLength } = samples.data
  return new Response(new Uint8Array(buffer as ArrayBuffer, byteOffset, byteLength), {
    headers: { 'Content-Type': 'application/octet-stream', 'Cache-Control': 'private, max-age=3600' },
  })
}

/** Takes a picture; the body is the file, `?name=` what it is called. Answers with the name that a fill stores. */
export async function action({ request, params }: Route.ActionArgs) {
  const context = serverContext()
  const found = await findShot(context.database.db, params.shotId)
  if (!found || !request.body) return Response.json({ message: 'There is no such shot.' }, { status: 404 })
  try {
    const plate = { ...found.plate, bitDepth: found.plate.bitDepth as BitDepth }
    return Response.json({
      name: await receiveStill(context, request.body as WebStream, plate, shownNameIn(request)),
    })
  } catch (cause) {
    if (cause instanceof Error && cause.name === 'MediaError')
      return Response.json({ message: cause.message }, { status: 400 })
    throw cause
  }
}
