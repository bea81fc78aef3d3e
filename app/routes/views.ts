import { serverContext } from '../../server/context.server'
import { readCommand } from '../../server/requestBody.server'
import { aroundRequestSchema, changeAround } from '../../server/views.server'
import type { Route } from './+types/views'

/** Orders of the page around a shot: whether it is all-round, and views to be made. Apart from the page, which would answer with itself. */
export async function action({ params, request }: Route.ActionArgs) {
  const asked = aroundRequestSchema.safeParse(await readCommand(request))
  if (!asked.success)
    return Response.json(
      { ok: false, message: 'That is no order for an all-round shot. Nothing has changed.' },
      { status: 400 },
    )
  const answer = await changeAround(serverContext().database.db, params.shotId, asked.data)
  return Response.json(answer, { status: answer.ok ? 200 : 409 })
}
