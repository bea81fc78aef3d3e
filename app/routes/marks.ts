import type { ReadableStream as WebStream } from 'node:stream/web'
import { serverContext } from '../../server/context.server'
import {
  MARK_PREFIX,
  MAX_SAMPLE_BYTES,
  markSizeSchema,
  readMarkFile,
  readMarkSamples,
  receiveMarkFile,
  receiveMarkSamples,
} from '../../server/marks.server'
import { readBytes, shownNameIn } from '../../server/requestBody.server'
import type { Route } from './+types/marks'

/** The picture of a mark: a PNG file, or with `?as=samples` 16-bit samples whose width and height the headers say. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const { folders } = serverContext()
  const name = MARK_PREFIX + (params.markId ?? '')
  const headers = { 'Cache-Control': 'private, max-age=31536000, immutable' }
  if (new URL(request.url).searchParams.get('as') === 'samples') {
    const samples = await readMarkSamples(folders.marks, name)
    if (!samples) throw missing()
    const { buffer, byteOffset, byteLength } = samples.data
    return new Response(new Uint8Array(buffer as ArrayBuffer, byteOffset, byteLength), {
      headers: {
        ...headers,
        'Content-Type': 'application/octet-stream',
        'X-Width': String(samples.width),
        'X-Height': String(samples.height),
      },
    })
  }
  const file = await readMarkFile(folders.marks, name)
  if (!file) throw missing()
  return new Response(new Uint8Array(file), {
    headers: {
      ...headers,
      'Content-Type': 'image/png',
      'Content-Disposition': 'inline; filename="mark.png"',
    },
  })
}

const missing = () => new Response('There is no such mark.', { status: 404 })

/** Keeps a picture: the body is a file, or with width and height 16-bit samples. Answers with the name that a fill stores. */
export async function action({ request }: Route.ActionArgs) {
  const { folders } = serverContext()
  if (!request.body)
    return Response.json({ message: 'There is no picture in this request.' }, { status: 400 })
  const size = markSizeSchema.safeParse(Object.fromEntries(new URL(request.url).searchParams))
  try {
    const name = size.success
      ? await receiveMarkSamples(folders.marks, size.data, await readBytes(request, MAX_SAMPLE_BYTES))
      : await receiveMarkFile(folders.marks, request.body as WebStream, shownNameIn(request))
    return Response.json({ name })
  } catch (cause) {
    if (cause instanceof Error && cause.name === 'MediaError')
      return Response.json({ message: cause.message }, { status: 400 })
    throw cause
  }
}
