import type { ShouldRevalidateFunctionArgs } from 'react-router'
import { loadBench, ONE_MOMENT } from '../../server/bench.server'
import { serverContext } from '../../server/context.server'
import { loadSurvey } from '../../server/surveys.server'
import { SurveyBench } from '../../workbench/survey/SurveyBench'
import { NO_COMPARISON } from '../../core/view/compare'
import { usePlaceInAddress } from '../usePlaceInAddress'
import type { Route } from './+types/survey'

export const meta: Route.MetaFunction = ({ loaderData }) => [
  { title: `${loaderData?.shot.name ?? 'Shot'} · Survey · Fillagrant` },
]

export async function loader({ params }: Route.LoaderArgs) {
  return serverContext().database.db.transaction(async (tx) => {
    const bench = await loadBench(tx, params.shotId)
    if (!bench) throw new Response('There is no such shot. It may have been removed.', { status: 404 })
    return { ...bench, survey: await loadSurvey(tx, params.shotId) }
  }, ONE_MOMENT)
}

/** The address only says where one looks; the bench keeps the document itself. */
export const shouldRevalidate = ({ currentUrl, nextUrl }: ShouldRevalidateFunctionArgs) =>
  currentUrl.pathname !== nextUrl.pathname

export default function Survey({ loaderData }: Route.ComponentProps) {
  const { start, onPlaceChange } = usePlaceInAddress(loaderData.plate.firstFrame)
  return (
    <SurveyBench
      key={loaderData.shot.id}
      {...loaderData}
      start={{ ...start, compare: NO_COMPARISON }}
      onPlaceChange={onPlaceChange}
    />
  )
}
