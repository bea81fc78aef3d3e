import { z } from 'zod'
import { serverContext } from '../../server/context.server'
import { ImportError, receiveFile } from '../../server/imports.server'
import type { Route } from './+types/importFile'

const paramsSchema = z.object({ importId: z.uuid(), index: z.coerce.number().int().min(0) })

/** Takes the bytes of one file; the body is the file, nothing around it. */
export async function action({ request, params }: Route.ActionArgs) {
  const place = paramsSchema.safeParse(params)
  if (!place.success || !request.body)
    return Response.json({ message: 'This import is not known.' }, { status: 404 })
  try {
    await receiveFile(serverContext(), place.data.importId, place.data.index, request.body)
    return Response.json({ ok: true })
  } catch (cause) {
    if (cause instanceof ImportError)
      return Response.json({ message: cause.message }, { status: cause.status })
    throw cause
  }
}
