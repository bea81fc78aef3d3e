import { serverContext } from '../../server/context.server'
import { askForGather, cancelGather, loadGather } from '../../server/gathers.server'
import type { Route } from './+types/gathers'

/** How far a mend's frames have been gathered ahead. */
export async function loader({ params }: Route.LoaderArgs) {
  return Response.json(await loadGather(serverContext().database.db, params.shotId, params.mendId))
}

/** POST has them gathered, DELETE calls it off. */
export async function action({ request, params }: Route.ActionArgs) {
  const { db } = serverContext().database
  if (request.method === 'DELETE') await cancelGather(db, params.shotId, params.mendId)
  else if (!(await askForGather(db, params.shotId, params.mendId)))
    return Response.json({ message: 'There is no such mend.' }, { status: 404 })
  return Response.json({ ok: true })
}
