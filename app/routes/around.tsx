import { serverContext } from '../../server/context.server'
import { findShot, listShots } from '../../server/shots.server'
import { listViews } from '../../server/views.server'
import { mayBeAllRound } from '../../core/sphere/straightView'
import { AroundPage } from '../../workbench/around/AroundPage'
import { useNews } from '../useNews'
import type { Route } from './+types/around'

export const meta: Route.MetaFunction = ({ loaderData }) => [
  { title: `${loaderData?.shot.name ?? 'Shot'} · Around · Fillagrant` },
]

export async function loader({ params }: Route.LoaderArgs) {
  const { db } = serverContext().database
  const found = await findShot(db, params.shotId)
  if (!found) throw new Response('There is no such shot. It may have been removed.', { status: 404 })
  const { shot, plate, productionName } = found
  return {
    productionName,
    shot: { id: shot.id, name: shot.name, isAllRound: shot.isAllRound },
    shots: (await listShots(db)).map((row) => ({ id: row.shot.id, name: row.shot.name })),
    plate: {
      width: plate.width,
      height: plate.height,
      firstFrame: plate.firstFrame,
      lastFrame: plate.firstFrame + plate.frameCount - 1,
    },
    mayBeAllRound: mayBeAllRound(plate),
    saysAllRound: plate.sphere !== null,
    views: await listViews(db, shot.id),
  }
}

export default function Around({ loaderData }: Route.ComponentProps) {
  useNews('view', 'shot')
  return <AroundPage key={loaderData.shot.id} {...loaderData} />
}
