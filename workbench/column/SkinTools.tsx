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
] as const

/** Skin is evened by little: a change of one code value of 8 bits is to be seen. */
const WHAT_CHANGES = { mode: 'difference', times: 32, sign: 'absolute' } as const

export function SkinTools({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const { findBlemishes } = useTracking()
  const found = useBench((bench) => (bench.foundSpots?.mendId === mend.id ? bench.foundSpots : null))
  const isBusy = useBench((bench) => bench.following !== null)
  const mapView = useBench((bench) => bench.mapView)
  const isDifferenceShown = useBench((bench) => bench.compare.mode === 'difference')
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
      <button
        type="button"
        className={SMALL_BUTTON}
        aria-pressed={isDifferenceShown}
        title="What mends change of the plate, enlarged; black where nothing"
        onClick={() => store.getState().setCompare(isDifferenceShown ? { mode: 'off' } : WHAT_CHANGES)}
      >
        What changes
      </button>
      <SkinBands mend={mend} />
    </div>
  )
}
