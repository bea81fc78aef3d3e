/** What a gathered fill found: how much other frames showed, and how well the background's motion is known. */
import { toast } from 'sonner'
import { findFill } from '../../core/fill/registry'
import { gainsNothing } from '../../core/snags/gains'
import type { GatheredMeasure } from '../../core/measure/mendMeasure'
import type { MendRecord } from '../../core/document/mend'
import { isLocked } from '../../core/scene/scene'
import { useBench, useBenchParts } from '../BenchContext'
import { useShownFrame } from '../preview/useFrameState'
import type { SceneStatus } from '../../core/jobs/scene'
import { GatherAll } from './GatherAll'
import { SMALL_BUTTON } from './buttonStyles'

/** Of the present frame; several areas of a mend count by their number. Null while it is not worked out. */
export function useGathered(mendId: string): GatheredMeasure | null {
  const { mended } = useShownFrame()
  const all = (mended?.measures ?? []).flatMap((one) =>
    one.mendId === mendId && one.gathered ? [one.gathered] : [],
  )
  if (all.length === 0) return null
  const mean = (of: (one: GatheredMeasure) => number) =>
    all.reduce((sum, one) => sum + of(one), 0) / all.length
  return {
    seenShare: mean((one) => one.seenShare),
    unseenWidePx: Math.max(...all.map((one) => one.unseenWidePx)),
    ghostShare: mean((one) => one.ghostShare),
    registrationSure: mean((one) => one.registrationSure),
    frames: Math.round(mean((one) => one.frames)),
    weighed: all[0]!.weighed,
  }
}

/** Whether the present frame is worked out. */
function useIsMended(mendId: string): boolean {
  const { mended } = useShownFrame()
  return mended?.measures.some((one) => one.mendId === mendId) ?? false
}

export function Gathered({ mend }: { mend: MendRecord }) {
  const { store, scene } = useBenchParts()
  const isSeenMapShown = useBench((bench) => bench.mapView === 'alone')
  const tracks = useBench((bench) => bench.tracks)
  const gathered = useGathered(mend.id)
  const isMended = useIsMended(mend.id)
  const percent = (share: number) => `${Math.round(share * 100)} %`
  return (
    <section aria-label="Gathered" className="mt-1 rounded-sm border border-line p-2">
      <p data-testid="gathered" className="flex items-baseline justify-between gap-2">
        <span>
          {gathered
            ? gatheredWords(gathered, unseenTitle(mend))
            : isMended
              ? 'Nothing of other frames is in it'
              : 'Gathering…'}
        </span>
        {gathered && (
          <span className="font-mono text-xs whitespace-nowrap text-soft">
            {gathered.frames} {gathered.frames === 1 ? 'frame' : 'frames'}
          </span>
        )}
      </p>
      {gathered && gathered.ghostShare > 0.02 && (
        <p className="text-caution">
          On {percent(gathered.ghostShare)} of it the frames do not agree. Ask fewer frames, or cover what
          passes through.
        </p>
      )}
      {scene.scene && gainsNothing(mend, tracks, scene.scene) && (
        <p role="status" className="text-caution">
          Camera and thing both rest: no frame shows what is behind it. A fill from nearby does as well.
        </p>
      )}
      <SceneLineOfWords status={scene} />
      <p className="flex flex-wrap gap-1.5 pt-1">
        <button
          type="button"
          className={SMALL_BUTTON}
          aria-pressed={isSeenMapShown}
          onClick={() => store.getState().showMap(isSeenMapShown ? 'off' : 'alone')}
        >
          {isSeenMapShown ? 'Hide seen map' : 'Seen map'}
        </button>
        <WorkOutAgain status={scene} />
      </p>
      <GatherAll mend={mend} />
    </section>
  )
}

/** Places of no more px across are specks: whatever fills them is not noticed. */
const SPECK_PX = 2
const FROM_SPECKS = 0.99

/** The same in two words, for a card's summary. */
export function seenWords({ seenShare, unseenWidePx }: GatheredMeasure): string {
  if (seenShare >= 0.9995 || (seenShare >= FROM_SPECKS && unseenWidePx <= SPECK_PX)) return 'all seen'
  const seen = Math.floor(seenShare * 100)
  return seen === 0 ? 'nothing seen' : `${seen} % seen`
}

/** "92 % seen in other frames, 8 % Across". */
export function gatheredWords({ seenShare, unseenWidePx }: GatheredMeasure, unseen: string): string {
  if (seenShare >= 0.9995) return 'All seen in other frames'
  if (seenShare >= FROM_SPECKS && unseenWidePx <= SPECK_PX)
    return `All seen in other frames, up to specks of ${unseenWidePx} px`
  const seen = Math.floor(seenShare * 100)
  return seen === 0
    ? `Not seen in other frames: ${unseen}`
    : `${seen} % seen in other frames, ${100 - seen} % ${unseen}`
}

export const unseenTitle = ({ fill }: MendRecord): string =>
  findFill(typeof fill.params['unseen'] === 'string' ? fill.params['unseen'] : '')?.title ?? ''

function SceneLineOfWords({ status }: { status: SceneStatus }) {
  const { state, scene, stepsDone, stepsTotal, error } = status
  if (state === 'failed')
    return <p className="text-snag">The scene’s motion could not be worked out. {error}</p>
  if (state === 'waiting' || state === 'working') {
    return (
      <p className="text-soft" role="status">
        Scene motion{' '}
        {stepsTotal > 0 ? `${Math.round((100 * stepsDone) / stepsTotal)} %` : 'waits for a worker'}
        {scene ? ' · the last one is used meanwhile' : ' · frames are taken as they lie until then'}
      </p>
    )
  }
  if (!scene) return <p className="text-soft">The scene’s motion is not known yet.</p>
  return (
    <p className="text-soft">
      Scene:{' '}
      {isLocked(scene)
        ? 'locked camera'
        : scene.layers.length === 1
          ? 'one moving background'
          : `${scene.layers.length} layers`}
    </p>
  )
}

/** Asks for the scene's motion again, with what mends cover now left out. */
function WorkOutAgain({ status }: { status: SceneStatus }) {
  const { shotId } = useBenchParts()
  const isUnderWay = status.state === 'waiting' || status.state === 'working'
  const ask = () =>
    fetch(`/shots/${shotId}/scene`, { method: 'POST' })
      .then((response) => {
        if (!response.ok) throw new Error(`The server said ${response.status}.`)
      })
      .catch((cause: Error) =>
        toast.error(`It could not be asked for: ${cause.message} The last one is kept.`),
      )
  return (
    <button
      type="button"
      className={SMALL_BUTTON}
      disabled={isUnderWay}
      title="Works out the background’s motion again; what mends cover now is left out."
      onClick={() => void ask()}
    >
      Scene motion again
    </button>
  )
}
