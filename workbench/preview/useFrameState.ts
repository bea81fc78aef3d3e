/** Frames of the cache, for what shows them: only who shows a frame renders again when it changes. */
import { useCallback, useEffect, useState, useSyncExternalStore } from 'react'
import type { Frame, FrameRange } from '../../core/time'
import { useBench, useBenchParts } from '../BenchContext'
import { cachedRuns, type FrameRun } from '../strip/cachedRuns'
import { NOTHING_YET, type FrameState } from './frameState'

export const useFrameState = (frame: Frame): FrameState => useOfFrame(frame, (state) => state)

/** A frame's plate alone; null for no frame. */
export const usePlatePicture = (frame: Frame | null): ImageBitmap | null =>
  useOfFrame(frame, ({ plate }) => plate)

/** What is picked of a frame's state: only when that is another one, who shows it renders again. */
function useOfFrame<T>(frame: Frame | null, pick: (state: FrameState) => T): T {
  const { cache } = useBenchParts()
  const subscribe = useCallback(
    (onChange: () => void) =>
      cache?.subscribe((changed) => changed === frame && onChange()) ?? (() => undefined),
    [cache, frame],
  )
  return useSyncExternalStore(
    subscribe,
    () => pick(frame === null ? NOTHING_YET : (cache?.stateAt(frame) ?? NOTHING_YET)),
    () => pick(NOTHING_YET),
  )
}

/** The frame at the playhead. */
export const useShownFrame = (): FrameState => useFrameState(useBench((bench) => bench.frame))

const NO_RUNS: readonly FrameRun[] = []

/** Runs of frames that are ready; brought up to date once a picture of the screen. */
export function useReadyRuns({ firstFrame, lastFrame }: FrameRange): readonly FrameRun[] {
  const { cache } = useBenchParts()
  const [runs, setRuns] = useState(NO_RUNS)
  useEffect(() => {
    if (!cache) return
    let due = 0
    const look = () => {
      due = 0
      setRuns(cachedRuns(firstFrame, lastFrame, (frame) => cache.isReady(frame)))
    }
    look()
    const stop = cache.subscribe(() => (due ||= requestAnimationFrame(look)))
    return () => {
      stop()
      cancelAnimationFrame(due)
    }
  }, [cache, firstFrame, lastFrame])
  return runs
}
