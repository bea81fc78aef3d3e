import { serverContext } from '../../server/context.server'
import { findShot } from '../../server/shots.server'
import { loadSurvey, surveyFile } from '../../server/surveys.server'
import type { Route } from './+types/findsFile'

/** The finds as a file, as the survey command writes it. */
export async function loader({ params }: Route.LoaderArgs) {
  const { db } = serverContext().database
  const found = await findShot(db, params.shotId)
  const file = found && surveyFile(found.plate, await loadSurvey(db, params.shotId))
  if (!file) throw new Response('There is no survey of such a shot yet. Scan it first.', { status: 404 })
  return new Response(`${JSON.stringify(file, null, 2)}\n`, {
    headers: {
      'Content-Type': 'application/json',
      'Content-Disposition': `attachment; filename="${found.shot.id}.finds.json"`,
    },
  })
}
