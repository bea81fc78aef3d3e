import { useNavigate } from 'react-router'
import { changeCameras, listCameras } from '../../server/cameras.server'
import { serverContext } from '../../server/context.server'
import { readCommand } from '../../server/requestBody.server'
import { listMarks } from '../../server/markLibrary.server'
import { listProductions, listShots } from '../../server/shots.server'
import { CameraList } from '../../workbench/cameras/CameraList'
import { MarkList } from '../../workbench/cameras/MarkList'
import { MarkPanel } from '../../workbench/cameras/MarkPanel'
import { MapPanel } from '../../workbench/cameras/MapPanel'
import { TopBar } from '../../workbench/shell/TopBar'
import { useNews } from '../useNews'
import type { Route } from './+types/cameras'

export const meta: Route.MetaFunction = () => [{ title: 'Cameras · Fillagrant' }]

export async function loader({ request }: Route.LoaderArgs) {
  const { db } = serverContext().database
  const [cameras, marks, productions, shots] = await Promise.all([
    listCameras(db),
    listMarks(db),
    listProductions(db),
    listShots(db),
  ])
  const asked = new URL(request.url).searchParams
  return {
    cameras,
    marks,
    productions,
    openId: asked.get('map'),
    openMarkId: asked.get('mark'),
    shots: shots.map(({ shot, plate }) => ({
      id: shot.id,
      name: shot.name,
      cameraId: shot.cameraId,
      width: plate.width,
      height: plate.height,
      firstFrame: plate.firstFrame,
      lastFrame: plate.firstFrame + plate.frameCount - 1,
    })),
  }
}

/** One order: see `cameraOrderSchema`. */
export async function action({ request }: Route.ActionArgs) {
  return changeCameras(serverContext().database.db, await readCommand(request))
}

export default function Cameras({ loaderData }: Route.ComponentProps) {
  const { cameras, marks, productions, shots, openId, openMarkId } = loaderData
  const navigate = useNavigate()
  useNews('camera', 'shot')
  const camera =
    cameras.find(({ maps }) => maps.some(({ id }) => id === openId)) ??
    cameras.find(({ maps }) => maps.length > 0)
  const listed = camera?.maps.find(({ id }) => id === openId) ?? camera?.maps[0]
  const mark = marks.find(({ id }) => id === openMarkId)
  const open = (mapId: string | null) => void navigate(mapId === null ? '/cameras' : `/cameras?map=${mapId}`)
  return (
    <div className="flex h-screen flex-col">
      <TopBar productionName="All productions" shots={[]} stage="shots" />
      <main className="flex min-h-0 grow">
        <div className="flex w-80 shrink-0 flex-col border-r border-line bg-panel">
          <CameraList
            cameras={cameras}
            productions={productions}
            openId={mark ? null : (listed?.id ?? null)}
            onOpen={open}
          />
          <MarkList
            marks={marks}
            productionId={productions[0]?.id ?? null}
            openId={mark?.id ?? null}
            onOpen={(id) => void navigate(id === null ? '/cameras' : `/cameras?mark=${id}`)}
          />
        </div>
        {mark ? (
          <MarkPanel key={mark.id} mark={mark} shots={shots} onGone={() => open(null)} />
        ) : camera && listed ? (
          <MapPanel
            key={listed.id}
            cameraId={camera.id}
            listed={listed}
            others={camera.maps.filter(({ id }) => id !== listed.id)}
            shots={shots}
            onOpen={open}
          />
        ) : (
          <p className="m-auto max-w-md p-6 text-center text-soft">
            A sensor map lists what is wrong on a camera body’s own sensor. Once known, it mends every shot of
            that camera at once.
          </p>
        )}
      </main>
    </div>
  )
}
