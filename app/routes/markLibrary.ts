import { serverContext } from '../../server/context.server'
import { readCommand } from '../../server/requestBody.server'
import { changeMarks, listMarks } from '../../server/markLibrary.server'
import type { Route } from './+types/markLibrary'

/** All marks of the library, by name. */
export async function loader() {
  return { marks: await listMarks(serverContext().database.db) }
}

/** One order: see `markCommandSchema`. */
export async function action({ request }: Route.ActionArgs) {
  const { database, folders } = serverContext()
  return changeMarks(database.db, folders.marks, await readCommand(request))
}
