/** What can be done with the skin of a mend: its matte is looked at; spots on it are found, shown in the picture, and mended where they are not left out. */
import type { MendRecord } from '../../core/document/mend'
import { useBench, useBenchParts } from '../BenchContext'
import { useTracking } from '../tracking/useTracking'
import { FoundSpotsPart } from './FoundSpotsPart'
import { SkinBands } from './SkinBands'
import { SMALL_BUTTON } from './buttonStyles'

const VIEWS = [
  ['alone', 'Matte', 'White where skin is evened, black where nothing is touched'],
  ['over', 'Matte over it', 'The picture, tinted where skin is evened'],
  ['changes', 'What changes', '32 times what mends change of the plate; black where nothing'],
] as const

export function SkinTools({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const { findBlemishes } = useTracking()
  const found = useBench((bench) => (bench.foundSpots?.mendId === mend.id ? bench.foundSpots : null))
  const isBusy = useBench((bench) => bench.following !== null)
  const mapView = useBench((bench) => bench.mapView)
  if (found) return <FoundSpotsPart found={found} />
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
}
