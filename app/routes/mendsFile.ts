import { serialiseDocument } from '../../core/document/document'
import { serverContext } from '../../server/context.server'
import { documentOf, findShot, loadMends, loadTracks } from '../../server/shots.server'
import type { Route } from './+types/mendsFile'

/** The mends of a shot as a file, as the command line reads it. */
export async function loader({ params }: Route.LoaderArgs) {
  const { db } = serverContext().database
  const found = await findShot(db, params.shotId)
  if (!found) throw new Response('There is no such shot.', { status: 404 })
  const text = serialiseDocument(
    documentOf(
      found.shot,
      found.plate,
      await loadMends(db, params.shotId),
      await loadTracks(db, params.shotId),
    ),
  )
  return new Response(text, {
    headers: {
      'Content-Type': 'application/json',
      'Content-Disposition': `attachment; filename="${params.shotId}.mends.json"`,
      'Cache-Control': 'no-store',
    },
  })
}
