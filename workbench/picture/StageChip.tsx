/** Says on the picture what of it is shown, as long as that is not the mends as they are. */
import { useBench } from '../BenchContext'
import type { FrameState } from '../preview/frameState'
import { useShownFrame } from '../preview/useFrameState'

export function StageChip() {
  const at = useShownFrame()
  const isPlateShown = useBench((bench) => bench.isPlateShown)
  // What is followed is shown once it is known where it goes: until then nothing is mended anew.
  const followed = useBench(({ following }) => (following?.standIn === null ? following.words : null))
  // While one paints the picture follows the pen, many times a second.
  const isPainting = useBench(({ wet }) => wet !== null)
  const isFollowed = followed !== null
  const words = isPlateShown ? 'Plate' : isFollowed ? `${followed}; mended after that` : wordsOf(at)
  if (words === null || isPainting) return null
  const isProgressTold = at.progress !== null && !isPlateShown && !isFollowed
  const percent = isProgressTold ? Math.round(100 * at.progress) : null
  return (
    <p
      role="status"
      data-testid="stage"
      className="pointer-events-none absolute top-3 left-3 overflow-hidden rounded-sm bg-panel/90 px-2.5 py-1 text-ink"
    >
      {words}
      {percent !== null && <span className="font-mono text-soft"> · {percent} %</span>}
      {percent !== null && (
        <span
          className="absolute bottom-0 left-0 h-0.5 bg-thread"
          style={{ width: `${percent}%` }}
          aria-hidden
        />
      )}
    </p>
  )
}

/** Null where there is nothing to say. */
export function wordsOf({ plate, stage, progress }: FrameState): string | null {
  if (plate === null) return 'Fetching the frame'
  switch (stage) {
    case 'full':
      return null
    case 'draft':
      return 'First look; the full result is on its way'
    case 'older':
      return progress === null ? 'As it was before the change' : 'As it was before the change; being mended'
    case 'none':
      return progress === null ? 'Plate; not mended' : 'Plate; being mended'
  }
}
