/** Spots that were found on skin: sifted by what they are and how large, and mended as one. */
import { useState } from 'react'
import { v4 as newId } from 'uuid'
import { mendSpots } from '../../core/document/spotsFound'
import { useBench, useBenchParts } from '../BenchContext'
import { ChoiceField } from '../fields/ChoiceField'
import { NumberField } from '../fields/NumberField'
import type { FoundSpots } from '../store/benchState'
import { useTracking } from '../tracking/useTracking'
import { SMALL_BUTTON } from './buttonStyles'

const SIGNS = { both: 'Both', darker: 'Darker', lighter: 'Lighter' } as const

interface Sieve {
  readonly sign: string
  /** Across, px. */
  readonly fromPx: number
  readonly toPx: number
}

export function FoundSpotsPart({ found }: { found: FoundSpots }) {
  const { store } = useBenchParts()
  const { followSkin } = useTracking()
  const isBusy = useBench((bench) => bench.following !== null)
  const { commit, goTo, select, setFoundSpots } = store.getState()
  const widest = Math.ceil(2 * Math.max(...found.spots.map(({ radiusPx }) => radiusPx)))
  const [sieve, setSieve] = useState<Sieve>({ sign: 'both', fromPx: 0, toPx: widest })
  const sift = (part: Partial<Sieve>) => {
    const next = { ...sieve, ...part }
    setSieve(next)
    const passes = ({ isDarker, radiusPx }: FoundSpots['spots'][number]) =>
      (next.sign === 'both' || isDarker === (next.sign === 'darker')) &&
      2 * radiusPx >= next.fromPx &&
      2 * radiusPx <= next.toPx
    setFoundSpots({ ...found, spots: found.spots.map((spot) => ({ ...spot, isLeft: !passes(spot) })) })
  }
  const size = { unit: 'px', min: 0, max: widest, step: 0.5, hasSlider: false, onEnd: () => undefined }
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
      <ChoiceField
        title="Spots"
        help="Darker or lighter than the skin around them"
        value={sieve.sign}
        choices={SIGNS}
        onChange={(sign) => sift({ sign })}
      />
      <NumberField
        title="From"
        help="Smaller ones are left out"
        value={sieve.fromPx}
        onChange={(fromPx) => sift({ fromPx })}
        {...size}
      />
      <NumberField
        title="To"
        help="Larger ones are left out"
        value={sieve.toPx}
        onChange={(toPx) => sift({ toPx })}
        {...size}
      />
      <div className="flex flex-wrap gap-1.5 pt-1">
        <button
          type="button"
          className={SMALL_BUTTON}
          disabled={taken.length === 0 || isBusy}
          onClick={() => {
            const { records, plate } = store.getState()
            const { edit, mendId } = mendSpots(records, taken, found.frame, plate, newId)
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
