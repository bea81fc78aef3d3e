/** A mark in the hand: taken off by its own picture, which can be saved for the next clip. */
import type { MendRecord } from '../../core/document/mend'
import { unmix } from '../../core/fill/unmix/unmix'
import type { WeighedMeasure } from '../../core/measure/mendMeasure'
import { useBench, useBenchParts } from '../BenchContext'
import { selectedArea } from '../store/benchState'
import { useGathered } from './Gathered'
import { useTracking } from '../tracking/useTracking'
import { SMALL_BUTTON } from './buttonStyles'

export function MarkPart({ mend }: { mend: MendRecord }) {
  const { scene } = useBenchParts()
  const { findMarkPlace, takeMark } = useTracking()
  const chosen = useBench(selectedArea)
  const gathered = useGathered(mend.id)
  // Without the scene's motion no other frame shows what is under it.
  const isWaiting = scene.scene === null && (scene.state === 'waiting' || scene.state === 'working')
  const isBusy = useBench((bench) => bench.following !== null)
  const area = chosen?.role === 'cover' ? chosen : mend.areas.find((one) => one.role === 'cover')
  if (!area || area.shape === 'matte' || area.shape === 'path') return null
  const isTaken = mend.fill.methodId === unmix.id && mend.fill.params['mark'] !== ''
  return (
    <div role="note" className="my-1 rounded-sm border border-line px-2 py-1.5" data-testid="mark-part">
      <p className="pb-1.5 text-soft">
        {isTaken
          ? 'What the mark adds is taken off, what is under it stays. A picture from elsewhere: find where it lies here. Worked out again after its outline or the shot’s motion has changed.'
          : 'Something shows through it? Then it can be taken off, and what is under it stays. A mark that travels: place it where its course begins, bends and ends. Only for footage that you may alter.'}
      </p>
      {!isTaken && !isWaiting && gathered && (
        <p className="pb-1.5 text-soft" data-testid="mark-advice">
          {adviceFor(gathered.seenShare)}
        </p>
      )}
      {isTaken && gathered?.weighed && (
        <p className="pb-1.5 text-soft" data-testid="mark-weighed">
          {weighedWords(gathered.weighed)}
        </p>
      )}
      {isTaken && (
        <button
          type="button"
          className={`${SMALL_BUTTON} mr-1.5`}
          disabled={isBusy}
          title="Looks for the edges of its picture on frames of the whole span, and places it there"
          onClick={() => findMarkPlace(mend, area)}
        >
          Find it in the shot
        </button>
      )}
      <button
        type="button"
        className={SMALL_BUTTON}
        disabled={isBusy || isWaiting}
        title="Looks at frames of the whole span: what stays the same over a picture that changes is the mark"
        onClick={() => takeMark(mend, area)}
      >
        {isTaken ? 'Work it out again' : 'Take it off'}
      </button>
    </div>
  )
}

/** Of a mark that hides what is under it, which fill is best here, and why. @param seenShare  How much of what it hides other frames show, 0 to 1. */
export function adviceFor(seenShare: number): string {
  const percent = Math.round(100 * seenShare)
  if (seenShare >= 0.98)
    return 'Is it opaque? Then Clean plate is best here: other frames show all that it hides.'
  if (seenShare >= 0.5)
    return `Is it opaque? Then Clean plate is best here: other frames show ${percent} % of what it hides, and the rest is made up.`
  return `Is it opaque? Other frames show only ${percent} % of what it hides: Texture makes it up from nearby, Soften is the quick way.`
}

/** What was undone beside what other frames show, in code values of 8 bits. */
export function weighedWords({ undone, others, weighed }: WeighedMeasure): string {
  const codes = (deviation: number) => (255 * deviation).toFixed(1)
  return `Here what was undone errs by about ${codes(undone)} code values, other frames by ${codes(others)}, both weighed together by ${codes(weighed)}.`
}
