import { serverContext } from '../../server/context.server'
import { askForScene, loadScene } from '../../server/scenes.server'
import { findShot } from '../../server/shots.server'
import type { Route } from './+types/scene'

/** How a shot's background moves, and how far that is worked out. */
export async function loader({ params }: Route.LoaderArgs) {
  return Response.json(await loadScene(serverContext().database.db, params.shotId))
}

/** Has it worked out again, with what mends cover now left out. */
export async function action({ params }: Route.ActionArgs) {
  const { db } = serverContext().database
  if (!(await findShot(db, params.shotId)))
    return Response.json({ message: 'There is no such shot.' }, { status: 404 })
  await askForScene(db, params.shotId)
  return Response.json({ ok: true })
}
