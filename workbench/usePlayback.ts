import { useEffect } from 'react'
import { framesPerSecond } from '../core/time'
import { useBench, useBenchParts } from './BenchContext'

const RATE_WINDOW_MS = 1000

/**
 * Plays at the shot's rate, round and round. A frame that is not ready is waited for, never skipped
 * silently: the readout tells how many frames a second were really shown.
 */
export function usePlayback(): void {
  const { store, cache } = useBenchParts()
  const isPlaying = useBench((bench) => bench.isPlaying)
  useEffect(() => {
    if (!isPlaying || !cache) return
    const { plate, goTo, setShownRate } = store.getState()
    const frameMs = 1000 / framesPerSecond(plate.frameRate)
    let due = performance.now() + frameMs
    let shownAt: number[] = []
    let request = 0
    const tick = (now: number) => {
      request = requestAnimationFrame(tick)
      if (now < due - 1) return
      const { frame } = store.getState()
      const next = frame >= plate.lastFrame ? plate.firstFrame : frame + 1
      shownAt = shownAt.filter((at) => now - at < RATE_WINDOW_MS)
      if (shownAt.length > 4) setShownRate(((shownAt.length - 1) * 1000) / Math.max(now - shownAt[0]!, 1))
      if (!cache.isReady(next)) {
        due = now
        return
      }
      goTo(next)
      shownAt.push(now)
      // Keeps to the clock; after a wait it starts counting anew rather than rushing.
      due = Math.max(due + frameMs, now - frameMs)
    }
    request = requestAnimationFrame(tick)
    return () => cancelAnimationFrame(request)
  }, [cache, isPlaying, store])
}
