import { serverContext } from '../../server/context.server'
import {
  askForSurvey,
  cancelSurvey,
  dismissalSchema,
  dismissFinds,
  loadSurvey,
} from '../../server/surveys.server'
import { readCommand } from '../../server/requestBody.server'
import type { Route } from './+types/surveyState'

/** How far the survey of a shot is, and what was found. */
export async function loader({ params }: Route.LoaderArgs) {
  return Response.json(await loadSurvey(serverContext().database.db, params.shotId))
}

/** POST has the shot looked through, DELETE calls it off, PATCH dismisses finds or takes that back. */
export async function action({ request, params }: Route.ActionArgs) {
  const { db } = serverContext().database
  if (request.method === 'DELETE') await cancelSurvey(db, params.shotId)
  else if (request.method === 'PATCH') {
    const dismissal = dismissalSchema.safeParse(await readCommand(request))
    if (!dismissal.success)
      return Response.json(
        { message: 'The finds cannot be told from that. Nothing has changed.' },
        { status: 400 },
      )
    await dismissFinds(db, params.shotId, dismissal.data)
  } else if (!(await askForSurvey(db, params.shotId)))
    return Response.json({ message: 'There is no such shot.' }, { status: 404 })
  return Response.json({ ok: true })
}
