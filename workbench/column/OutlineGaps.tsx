/** Says what is missing where a thing was outlined on some frames only, and offers to do it. */
import type { KeyedArea } from '../../core/document/areas'
import type { MendRecord } from '../../core/document/mend'
import { useBenchParts } from '../BenchContext'
import { useTracking } from '../tracking/useTracking'
import { SMALL_BUTTON } from './buttonStyles'

export function OutlineGaps({ mend, area }: { mend: MendRecord; area: KeyedArea }) {
  const { store, scene } = useBenchParts()
  const { carryAlong, followThing } = useTracking()
  const { frame } = area.keys[0]!
  const isOnce = area.keys.length === 1
  return (
    <div
      role="note"
      className={`my-1 rounded-sm border px-2 py-1.5 ${isOnce ? 'border-caution/60' : 'border-line'}`}
      data-testid="outline-gaps"
    >
      <p className="pb-1.5 text-soft">
        {isOnce
          ? `Outlined on ${frame} only: on all other frames the outline stays there. Move it along on a few more frames, or have it carried along.`
          : 'Between its keys the outline goes evenly. Where the thing does not, let it follow.'}
      </p>
      <div className="flex flex-wrap gap-1.5">
        <button
          type="button"
          className={SMALL_BUTTON}
          disabled={!scene.scene}
          title={
            scene.scene
              ? 'By what sets it apart from the background, also where it stops, turns or leaves the picture'
              : 'Once the scene’s motion is known'
          }
          onClick={() => followThing(mend, area)}
        >
          Follow the thing
        </button>
        {isOnce && (
          <button
            type="button"
            className={SMALL_BUTTON}
            title="By points on its texture"
            onClick={() => {
              store.getState().goTo(frame)
              carryAlong(mend, area)
            }}
          >
            Carry it along
          </button>
        )}
      </div>
    </div>
  )
}
