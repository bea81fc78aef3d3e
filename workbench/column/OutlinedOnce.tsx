/** Says what is missing where a thing was outlined on one frame only, and offers to do it. */
import type { KeyedArea } from '../../core/document/areas'
import type { MendRecord } from '../../core/document/mend'
import { useBenchParts } from '../BenchContext'
import { useTracking } from '../tracking/useTracking'
import { SMALL_BUTTON } from './buttonStyles'

export function OutlinedOnce({ mend, area }: { mend: MendRecord; area: KeyedArea }) {
  const { store } = useBenchParts()
  const { carryAlong } = useTracking()
  const [{ frame }] = area.keys as [KeyedArea['keys'][number]]
  return (
    <div
      role="note"
      className="my-1 rounded-sm border border-caution/60 px-2 py-1.5"
      data-testid="outlined-once"
    >
      <p className="pb-1.5 text-soft">
        Outlined on {frame} only: on all other frames the outline stays there. Move it along on a few more
        frames, or have it carried along.
      </p>
      <button
        type="button"
        className={SMALL_BUTTON}
        onClick={() => {
          store.getState().goTo(frame)
          carryAlong(mend, area)
        }}
      >
        Carry it along
      </button>
    </div>
  )
}
