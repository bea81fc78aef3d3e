import { useMemo, useState } from 'react'
import { useStore } from 'zustand'
import { worthALook } from '../../core/snags/gains'
import { findSnags, snagsOfMeasures, type Snag } from '../../core/snags/snags'
import type { Scene } from '../../core/scene/scene'
import type { FrameCache } from '../preview/frameCache'
import type { BenchStore } from '../store/bench'

/**
 * The snags of all mends, by frame: those that the data tell, and those that finished frames have shown so far. While a
 * handle is dragged or a track followed those from before stay: every frame of every mend would be placed anew.
 */
export function useSnags(
  store: BenchStore,
  cache: FrameCache | null,
  cacheVersion: number,
  scene: Scene | null,
): readonly Snag[] {
  const records = useStore(store, (bench) => bench.records)
  const tracks = useStore(store, (bench) => bench.tracks)
  const plate = useStore(store, (bench) => bench.plate)
  const isMoving = useStore(store, (bench) => bench.gesture !== null || bench.following !== null)
  const [resting, setResting] = useState({ records, tracks })
  if (!isMoving && (resting.records !== records || resting.tracks !== tracks)) setResting({ records, tracks })
  const told = useMemo(
    () => [...resting.records.values()].flatMap((mend) => findSnags(mend, resting.tracks, plate)),
    [resting, plate],
  )
  return useMemo(() => {
    void cacheVersion // measures arrive with finished frames
    const seen: Snag[] = []
    if (cache && !isMoving) {
      for (let frame = plate.firstFrame; frame <= plate.lastFrame; frame++) {
        const at = cache.mendedAt(frame)
        if (!at?.isCurrent) continue
        const before = cache.mendedAt(frame - 1)
        seen.push(
          ...snagsOfMeasures(at.mended.measures, frame, before?.isCurrent ? before.mended.measures : []),
        )
      }
    }
    return [...told, ...worthALook(seen, resting.records.values(), resting.tracks, scene)].sort(
      (a, b) => a.frame - b.frame,
    )
  }, [cache, cacheVersion, isMoving, plate, told, resting, scene])
}
