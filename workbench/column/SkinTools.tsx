/** What can be done with the skin of a mend: its matte is looked at; spots on it are found, shown in the picture, and mended where they are not left out. */
import { mendSpots } from '../../core/document/spotsFound'
import type { MendRecord } from '../../core/document/mend'
import { useBench, useBenchParts } from '../BenchContext'
import { useTracking } from '../tracking/useTracking'
import { SkinBands } from './SkinBands'
import { SMALL_BUTTON } from './buttonStyles'

const VIEWS = [
  ['alone', 'Matte', 'White where skin is evened, black where nothing is touched'],
  ['over', 'Matte over it', 'The picture, tinted where skin is evened'],
  ['changes', 'What changes', '32 times what mends change of the plate; black where nothing'],
] as const

export function SkinTools({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const { findBlemishes, followSkin } = useTracking()
  const found = useBench((bench) => (bench.foundSpots?.mendId === mend.id ? bench.foundSpots : null))
  const isBusy = useBench((bench) => bench.following !== null)
  const { commit, goTo, select, setFoundSpots } = store.getState()
  const mapView = useBench((bench) => bench.mapView)
  if (!found)
    return (
      <div className="my-1 flex flex-wrap gap-1.5">
        <button
          type="button"
          className={SMALL_BUTTON}
          disabled={isBusy}
          title="Round spots that stand out from the skin, on this frame"
          onClick={() => findBlemishes(mend.id)}
        >
          Find blemishes
        </button>
        {VIEWS.map(([view, words, about]) => (
          <button
            key={view}
            type="button"
            className={SMALL_BUTTON}
            aria-pressed={mapView === view}
            title={about}
            onClick={() => store.getState().showMap(mapView === view ? 'off' : view)}
          >
            {words}
          </button>
        ))}
        <SkinBands mend={mend} />
      </div>
    )
  const taken = found.spots.filter(({ isLeft }) => !isLeft)
  const darker = taken.filter(({ isDarker }) => isDarker).length
  return (
    <div role="note" className="my-1 rounded-sm border border-line px-2 py-1.5" data-testid="found-spots">
      <p className="pb-1.5 text-soft">
        {`${taken.length} of ${found.spots.length} spots on `}
        <button type="button" className="font-mono text-ink underline" onClick={() => goTo(found.frame)}>
          {found.frame}
        </button>
        {`: ${darker} darker, ${taken.length - darker} lighter than the skin. Click one in the picture to leave it out.`}
      </p>
      <div className="flex flex-wrap gap-1.5">
        <button
          type="button"
          className={SMALL_BUTTON}
          disabled={taken.length === 0 || isBusy}
          onClick={() => {
            const { records, plate } = store.getState()
            const { edit, mendId } = mendSpots(records, taken, found.frame, plate, () => crypto.randomUUID())
            goTo(found.frame)
            commit(edit)
            setFoundSpots(null)
            select(mendId)
            followSkin(mendId)
          }}
        >
          {taken.length === 1 ? 'Mend 1 spot' : `Mend ${taken.length} spots`}
        </button>
        <button type="button" className={SMALL_BUTTON} onClick={() => setFoundSpots(null)}>
          Mend none
        </button>
      </div>
    </div>
  )
}
