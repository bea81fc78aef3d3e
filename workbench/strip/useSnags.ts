import { useEffect } from 'react'
import { worthALook } from '../../core/snags/gains'
import { findSnags, type Snag } from '../../core/snags/snags'
import type { Mend } from '../../core/document/mend'
import type { Track, Tracks } from '../../core/document/tracks'
import { useBench, useBenchParts } from '../BenchContext'
import { FrameSnags } from './frameSnags'

/**
 * Keeps the snags of all mends, by frame, in the store: those that the data tell, and those that finished frames have shown
 * so far. While a handle is dragged or a track followed those from before stay.
 */
export function useSnags(): void {
  const { store, cache, scene } = useBenchParts()
  const records = useBench((bench) => bench.records)
  const tracks = useBench((bench) => bench.tracks)
  const plate = useBench((bench) => bench.plate)
  const isMoving = useBench((bench) => bench.gesture !== null || bench.following !== null)
  useEffect(() => {
    if (!cache || isMoving) return
    const told = [...records.values()].flatMap((mend) => toldOf(mend, tracks, plate))
    const ofFrames = new FrameSnags((frame) => cache.stateAt(frame))
    let due = 0
    const look = () => {
      due = 0
      const seen: Snag[] = []
      for (let frame = plate.firstFrame; frame <= plate.lastFrame; frame++) seen.push(...ofFrames.at(frame))
      const all = [...told, ...worthALook(seen, records.values(), tracks, scene.scene)]
      store.getState().setSnags(all.sort((a, b) => a.frame - b.frame))
    }
    look()
    const stop = cache.subscribe(() => (due ||= requestAnimationFrame(look)))
    return () => {
      stop()
      cancelAnimationFrame(due)
    }
  }, [cache, isMoving, plate, records, scene.scene, store, tracks])
}

interface Told {
  /** Those that its areas follow. */
  readonly tracks: readonly (Track | undefined)[]
  readonly snags: readonly Snag[]
}

const kept = new WeakMap<Mend, Told>()

/** What the data of a mend tell, worked out again when it or what it follows has changed. */
function toldOf(mend: Mend, tracks: Tracks, plate: Parameters<typeof findSnags>[2]): readonly Snag[] {
  const followed = mend.areas.map(({ follow }) => (follow ? tracks.get(follow.trackId) : undefined))
  const known = kept.get(mend)
  if (known && known.tracks.every((track, i) => track === followed[i])) return known.snags
  const snags = findSnags(mend, tracks, plate)
  kept.set(mend, { tracks: followed, snags })
  return snags
}
