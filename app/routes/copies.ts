import { serverContext } from '../../server/context.server'
import { readCommand } from '../../server/requestBody.server'
import { copyMends, copyTargets } from '../../server/recipes.server'
import type { Route } from './+types/copies'

/** The shots that mends of this one can be copied to. */
export async function loader({ params }: Route.LoaderArgs) {
  const shots = await copyTargets(serverContext().database.db, params.shotId)
  if (!shots) throw new Response('There is no such shot.', { status: 404 })
  return { shots }
}

/** Copies mends to other shots: see `copyOrderSchema`. */
export async function action({ request, params }: Route.ActionArgs) {
  return copyMends(serverContext().database.db, params.shotId, await readCommand(request))
}
