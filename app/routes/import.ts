import { z } from 'zod'
import { serverContext } from '../../server/context.server'
import { cancelImport, finishUpload, ImportError, takeDamaged } from '../../server/imports.server'
import type { Route } from './+types/import'

/** POST: all files are sent, decode them; with `?damaged`: take them in though they are damaged. DELETE: stop, or take a failed one off the page. */
export async function action({ request, params }: Route.ActionArgs) {
  if (!z.uuid().safeParse(params.importId).success)
    return Response.json({ message: 'This import is not known.' }, { status: 404 })
  try {
    if (request.method === 'DELETE') await cancelImport(serverContext(), params.importId)
    else if (new URL(request.url).searchParams.has('damaged'))
      await takeDamaged(serverContext(), params.importId)
    else await finishUpload(serverContext(), params.importId)
    return Response.json({ ok: true })
  } catch (cause) {
    if (cause instanceof ImportError)
      return Response.json({ message: cause.message }, { status: cause.status })
    throw cause
  }
}
