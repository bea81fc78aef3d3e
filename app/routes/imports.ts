import { serverContext } from '../../server/context.server'
import { OWN_PRODUCTION_ID } from '../../server/db/migrate.server'
import { ImportError, openImport } from '../../server/imports.server'
import { dropSchema } from '../../server/media/importPlan.server'
import { readJson } from '../../server/requestBody.server'
import type { Route } from './+types/imports'

/** Announces a drop. Answers with the import's id, or in words why it is no footage. */
export async function action({ request }: Route.ActionArgs) {
  const drop = dropSchema.safeParse(await readJson(request))
  if (!drop.success)
    return Response.json(
      { message: `This drop cannot be read. ${drop.error.issues[0]?.message ?? ''} Nothing was brought in.` },
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
