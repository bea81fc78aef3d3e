import { z } from 'zod'
import { loadBench, ONE_MOMENT } from '../../server/bench.server'
import { serverContext } from '../../server/context.server'
import { frozenBench, listProvable } from '../../server/frozenBench.server'
import { listNotes } from '../../server/notes.server'
import { loadProof } from '../../server/proofs.server'
import { mendsOfViews } from '../../server/views.server'
import { ProofBench } from '../../workbench/proof/ProofBench'
import { usePlaceInAddress } from '../usePlaceInAddress'
import type { Route } from './+types/proof'

export const meta: Route.MetaFunction = ({ loaderData }) => [
  { title: `${loaderData?.shot.name ?? 'Shot'} · Proof · Fillagrant` },
]

const versionSchema = z.uuid().nullable().catch(null)

export async function loader({ params, request }: Route.LoaderArgs) {
  const { shotId } = params
  const asked = versionSchema.parse(new URL(request.url).searchParams.get('version'))
  return serverContext().database.db.transaction(async (tx) => {
    const bench = await loadBench(tx, shotId)
    if (!bench) throw new Response('There is no such shot. It may have been removed.', { status: 404 })
    const provable = await listProvable(tx, shotId)
    const version = provable.find(({ id }) => id === asked) ?? null
    return {
      ...bench,
      ...(version ? await frozenBench(tx, version.id) : {}),
      version,
      provable,
      proof: await loadProof(tx, shotId, version?.id ?? null, null),
      notes: await listNotes(tx, shotId),
      ofViews: bench.shot.isAllRound ? await mendsOfViews(tx, shotId) : [],
    }
  }, ONE_MOMENT)
}

export default function Proof({ loaderData }: Route.ComponentProps) {
  const { start, onPlaceChange } = usePlaceInAddress(loaderData.plate.firstFrame)
  return (
    <ProofBench
      key={`${loaderData.shot.id} ${loaderData.version?.id ?? ''}`}
      {...loaderData}
      start={start}
      onPlaceChange={onPlaceChange}
    />
  )
}
