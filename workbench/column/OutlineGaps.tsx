/** Says what is missing where a thing was outlined on some frames only, and offers to do it. */
import type { KeyedArea } from '../../core/document/areas'
import type { MendRecord } from '../../core/document/mend'
import { useBenchParts } from '../BenchContext'
import { useTracking } from '../tracking/useTracking'
import { SMALL_BUTTON } from './buttonStyles'

const EVENLY = 'Between its keys the outline goes evenly. Where what it holds does not, let it follow.'

const onceWords = (frame: number, isShadow: boolean): string =>
  `Outlined on ${frame} only: on all other frames the outline stays there. ${
    isShadow
      ? 'Let it follow its shadow, or the ground on which that rests.'
      : 'Move it along on a few more frames, or have it carried along.'
  }`

export function OutlineGaps({ mend, area }: { mend: MendRecord; area: KeyedArea }) {
  const { store, scene } = useBenchParts()
  const { carryAlong, followScene, followThing } = useTracking()
  const { frame } = area.keys[0]!
  const isOnce = area.keys.length === 1
  const isShadow = mend.kind === 'shadow'
  return (
    <div
      role="note"
      className={`my-1 rounded-sm border px-2 py-1.5 ${isOnce ? 'border-caution/60' : 'border-line'}`}
      data-testid="outline-gaps"
    >
      <p className="pb-1.5 text-soft">{isOnce ? onceWords(frame, isShadow) : EVENLY}</p>
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
          {isShadow ? 'Follow the shadow' : 'Follow the thing'}
        </button>
        {isOnce && isShadow && (
          <button
            type="button"
            className={SMALL_BUTTON}
            disabled={!scene.scene}
            title="As the ground moves under it, from here"
            onClick={() => {
              store.getState().goTo(frame)
              followScene(mend, area)
            }}
          >
            Rests on the ground
          </button>
        )}
        {isOnce && !isShadow && (
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
