import type { ShouldRevalidateFunctionArgs } from 'react-router'
import { loadBench, ONE_MOMENT } from '../../server/bench.server'
import { serverContext } from '../../server/context.server'
import { MendBench } from '../../workbench/MendBench'
import { usePlaceInAddress } from '../usePlaceInAddress'
import type { Route } from './+types/mend'

export const meta: Route.MetaFunction = ({ loaderData }) => [
  { title: `${loaderData?.shot.name ?? 'Shot'} · Mend · Fillagrant` },
]

export async function loader({ params }: Route.LoaderArgs) {
  return serverContext().database.db.transaction(async (tx) => {
    const bench = await loadBench(tx, params.shotId)
    if (!bench) throw new Response('There is no such shot. It may have been removed.', { status: 404 })
    return bench
  }, ONE_MOMENT)
}

/** The address only says where one looks; the bench keeps the document itself. */
export const shouldRevalidate = ({ currentUrl, nextUrl }: ShouldRevalidateFunctionArgs) =>
  currentUrl.pathname !== nextUrl.pathname

export default function Mend({ loaderData }: Route.ComponentProps) {
  const { start, onPlaceChange } = usePlaceInAddress(loaderData.plate.firstFrame)
  return <MendBench key={loaderData.shot.id} {...loaderData} start={start} onPlaceChange={onPlaceChange} />
}
