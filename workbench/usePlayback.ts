import { useEffect } from 'react'
import { framesPerSecond } from '../core/time'
import { playedAfter, SPEEDS, type Played } from '../core/view/playback'
import { useBench, useBenchParts } from './BenchContext'
import { playedRange } from './store/benchState'

const RATE_WINDOW_MS = 1000

/**
 * Plays the range that was chosen at the shot's rate, or half or twice as fast. Every frame: one that is not ready is waited for, never
 * skipped silently. In real time: frames that are late are left out, and counted. The readout tells how many a second were really shown.
 */
export function usePlayback(): void {
  const { store, cache } = useBenchParts()
  const isPlaying = useBench((bench) => bench.isPlaying)
  useEffect(() => {
    if (!isPlaying || !cache) return
    const { plate, goTo, setShownRate, setPlaying, setDropped } = store.getState()
    let way: Played['way'] = 1
    let due = performance.now()
    let shownAt: number[] = []
    let dropped = 0
    let request = 0
    const tick = (now: number) => {
      request = requestAnimationFrame(tick)
      if (now < due - 1) return
      const { frame, playback } = store.getState()
      const range = playedRange(store.getState())
      const frameMs = 1000 / (framesPerSecond(plate.frameRate) * SPEEDS[playback.speed])
      const tellRate = () => {
        shownAt = shownAt.filter((at) => now - at <= RATE_WINDOW_MS)
        if (shownAt.length > 4) setShownRate(((shownAt.length - 1) * 1000) / Math.max(now - shownAt[0]!, 1))
      }
      const late = playback.pace === 'real' ? Math.floor((now - due) / frameMs) : 0
      const ways: Played[] = []
      for (let at: Played | null = { frame, way }; ways.length <= late && (at = playedAfter(at, range, playback.repeat));) ways.push(at) // prettier-ignore
      if (ways.length === 0) return setPlaying(false)
      const shown = ways.findLastIndex((one) => cache.isReady(one.frame))
      if (shown < 0) {
        if (playback.pace === 'every') due = now
        return tellRate()
      }
      const next = ways[shown]!
      way = next.way
      goTo(next.frame)
      shownAt.push(now)
      tellRate()
      if (shown > 0) setDropped((dropped += shown))
      // Keeps to the clock; after a wait it starts counting anew rather than rushing.
      due = playback.pace === 'real' ? due + (shown + 1) * frameMs : Math.max(due + frameMs, now - frameMs)
    }
    request = requestAnimationFrame(tick)
    return () => cancelAnimationFrame(request)
  }, [cache, isPlaying, store])
}
