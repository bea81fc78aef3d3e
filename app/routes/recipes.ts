import { serverContext } from '../../server/context.server'
import { readCommand } from '../../server/requestBody.server'
import { changeRecipes, listRecipes } from '../../server/recipes.server'
import type { Route } from './+types/recipes'

/** All recipes by name. */
export async function loader() {
  return { recipes: await listRecipes(serverContext().database.db) }
}

/** One order: see `recipeOrderSchema`. */
export async function action({ request }: Route.ActionArgs) {
  return changeRecipes(serverContext().database.db, await readCommand(request))
}
