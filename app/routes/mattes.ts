import type { ReadableStream as WebStream } from 'node:stream/web'
import { z } from 'zod'
import { serverContext } from '../../server/context.server'
import { mattePlaceSchema, readImportedMatte, receiveMatte } from '../../server/mattes.server'
import { shownNameIn } from '../../server/requestBody.server'
import { findShot } from '../../server/shots.server'
import type { Route } from './+types/mattes'

const endingSchema = z.enum(['.png', '.tif', '.tiff', '.exr'])

/** A matte's covered rectangle: col, row, width, height as 32-bit numbers, then coverage as 32-bit floats. 204: nothing covered. */
export async function loader({ params }: Route.LoaderArgs) {
  const place = mattePlaceSchema.safeParse(params)
  if (!place.success) throw new Response('There is no such matte.', { status: 404 })
  const matte = await readImportedMatte(
    serverContext().folders.mattes,
    `matte:${place.data.matteId}`,
    place.data.frame,
  )
  if (!matte) return new Response(null, { status: 204 })
  const head = Int32Array.of(matte.rect.col, matte.rect.row, matte.rect.width, matte.rect.height)
  const bytes = new Uint8Array(head.byteLength + matte.coverage.byteLength)
  bytes.set(new Uint8Array(head.buffer))
  bytes.set(new Uint8Array(matte.coverage.buffer), head.byteLength)
  return new Response(bytes, {
    headers: { 'Content-Type': 'application/octet-stream', 'Cache-Control': 'private, max-age=3600' },
  })
}

/** Takes one picture; the body is the file. `?ending=.png` says what it is, `name` what it is called. */
export async function action({ request, params }: Route.ActionArgs) {
  const context = serverContext()
  const place = mattePlaceSchema.safeParse(params)
  const ending = endingSchema.safeParse(new URL(request.url).searchParams.get('ending'))
  const found = await findShot(context.database.db, params.shotId)
  if (!place.success || !found || !request.body)
    return Response.json({ message: 'There is no such shot.' }, { status: 404 })
  if (!ending.success)
    return Response.json({ message: 'A matte is a numbered PNG, TIFF or EXR picture.' }, { status: 400 })
  try {
    await receiveMatte(
      context,
      place.data,
      ending.data,
      request.body as WebStream,
      found.plate,
      shownNameIn(request),
    )
    return Response.json({ ok: true })
  } catch (cause) {
    if (cause instanceof Error && cause.name === 'MediaError')
      return Response.json({ message: cause.message }, { status: 400 })
    throw cause
  }
}
