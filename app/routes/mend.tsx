import { useCallback } from 'react'
import { useSearchParams, type ShouldRevalidateFunctionArgs } from 'react-router'
import type { BitDepth } from '../../core/image/samples'
import { serverContext } from '../../server/context.server'
import { loadScene } from '../../server/scenes.server'
import { findShot, listShots, loadHistory, loadMends, loadTracks } from '../../server/shots.server'
import { MendBench } from '../../workbench/MendBench'
import type { Route } from './+types/mend'

export const meta: Route.MetaFunction = ({ loaderData }) => [{ title: `${loaderData?.shot.name ?? 'Shot'} · Mend · Fillagrant` }]

/** All in one moment: the mends and the history that led to them belong to one revision. */
export async function loader({ params }: Route.LoaderArgs) {
  const { db } = serverContext().database
  return db.transaction(
    async (tx) => {
      const found = await findShot(tx, params.shotId)
      if (!found) throw new Response('There is no such shot. It may have been removed.', { status: 404 })
      const { shot, plate, productionName } = found
      const shots = await listShots(tx)
      return {
        productionName,
        shot: { id: shot.id, name: shot.name, revision: shot.revision },
        shots: shots.map((row) => ({ id: row.shot.id, name: row.shot.name })),
        plate: {
          id: plate.id,
          width: plate.width,
          height: plate.height,
          channels: plate.channels,
          bitDepth: plate.bitDepth as BitDepth,
          frameRate: { num: plate.rateNum, den: plate.rateDen },
          firstFrame: plate.firstFrame,
          lastFrame: plate.firstFrame + plate.frameCount - 1,
        },
        records: await loadMends(tx, shot.id),
        tracks: await loadTracks(tx, shot.id),
        scene: await loadScene(tx, shot.id),
        history: await loadHistory(tx, shot.id),
      }
    },
    { isolationLevel: 'repeatable read', accessMode: 'read only' },
  )
}

/** The address only says where one looks; the bench keeps the document itself. */
export const shouldRevalidate = ({ currentUrl, nextUrl }: ShouldRevalidateFunctionArgs) => currentUrl.pathname !== nextUrl.pathname

export default function Mend({ loaderData }: Route.ComponentProps) {
  const [search, setSearch] = useSearchParams()
  const onPlaceChange = useCallback(
    ({ frame, scale, selectedId }: { frame: number; scale: number; selectedId: string | null }) => {
      const next = new URLSearchParams({ frame: String(frame), zoom: String(Math.round(scale * 100)) })
      if (selectedId) next.set('mend', selectedId)
      setSearch(next, { replace: true, preventScrollReset: true })
    },
    [setSearch],
  )
  const start = {
    frame: Number(search.get('frame') ?? loaderData.plate.firstFrame) || loaderData.plate.firstFrame,
    scale: Math.min(Math.max(Number(search.get('zoom') ?? 0) || 0, 0), 3200) / 100,
    selectedId: search.get('mend'),
  }
  return <MendBench key={loaderData.shot.id} {...loaderData} start={start} onPlaceChange={onPlaceChange} />
}
