/** Says where spots were drawn and stay, and lets them go with the skin; once they do, how many are out of sight. */
import { hiddenSpots, isOnSurface, spotsOf } from '../../core/document/followSurface'
import type { MendRecord } from '../../core/document/mend'
import { useBench } from '../BenchContext'
import { useTracking } from '../tracking/useTracking'
import { SMALL_BUTTON } from './buttonStyles'

export function SpotsStay({ mend }: { mend: MendRecord }) {
  const { followSkin } = useTracking()
  const tracks = useBench((bench) => bench.tracks)
  const frame = useBench((bench) => bench.frame)
  const isFollowing = useBench((bench) => bench.following !== null)
  const count = spotsOf(mend).length
  const spots = count === 1 ? '1 spot' : `${count} spots`
  const follows = isOnSurface(mend, tracks)
  const hidden = follows ? hiddenSpots(mend, tracks, frame) : 0
  return (
    <div
      role="note"
      className={`my-1 rounded-sm border px-2 py-1.5 ${follows ? 'border-line' : 'border-caution/60'}`}
      data-testid="spots"
    >
      <p className="pb-1.5 text-soft">
        {follows
          ? `${spots}, each goes with its own place on the skin${hidden > 0 ? `; ${hidden} out of sight here` : ''}.`
          : `${spots}: where the head moves, let each go with its own place on the skin.`}
      </p>
      <button
        type="button"
        className={SMALL_BUTTON}
        disabled={isFollowing}
        title="Both ways from this frame; where one is lost it is looked for again"
        onClick={() => followSkin(mend.id)}
      >
        {follows ? 'Follow again from here' : 'Follow the skin'}
      </button>
    </div>
  )
}
