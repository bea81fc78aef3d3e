import { z } from 'zod'
import { serverContext } from '../../server/context.server'
import { OWN_PRODUCTION_ID } from '../../server/db/migrate.server'
import { ImportError, openImport } from '../../server/imports.server'
import { dropSchema } from '../../server/media/importPlan.server'
import { readCommand } from '../../server/requestBody.server'
import type { Route } from './+types/imports'

/** Announces a drop. Answers with the import's id, or in words why it is no footage. */
export async function action({ request }: Route.ActionArgs) {
  const drop = dropSchema.safeParse(await readCommand(request))
  if (!drop.success)
    return Response.json(
      { message: `This drop cannot be read: ${z.prettifyError(drop.error)}` },
      { status: 400 },
    )
  try {
    const { id } = await openImport(serverContext(), OWN_PRODUCTION_ID, drop.data)
    return Response.json({ importId: id })
  } catch (cause) {
    if (cause instanceof ImportError)
      return Response.json({ message: cause.message }, { status: cause.status })
    throw cause
  }
}
