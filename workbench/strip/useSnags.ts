import { useMemo } from 'react'
import { findSnags, snagsOfMeasures, type Snag } from '../../core/mend/snags'
import { useBench, useBenchParts } from '../BenchContext'

/** The snags of all mends, by frame: those that the data tell, and those that finished frames have shown so far. */
export function useSnags(): readonly Snag[] {
  const { cache, cacheVersion } = useBenchParts()
  const records = useBench((bench) => bench.records)
  const tracks = useBench((bench) => bench.tracks)
  const plate = useBench((bench) => bench.plate)
  const gesture = useBench((bench) => bench.gesture !== null || bench.following !== null)
  const told = useMemo(() => [...records.values()].flatMap((mend) => findSnags(mend, tracks, plate)), [records, tracks, plate])
  return useMemo(() => {
    void cacheVersion // measures arrive with finished frames
    const seen: Snag[] = []
    if (cache && !gesture) {
      for (let frame = plate.firstFrame; frame <= plate.lastFrame; frame++) {
        const at = cache.mendedAt(frame)
        if (at?.isCurrent) seen.push(...snagsOfMeasures(at.mended.measures, frame))
      }
    }
    return [...told, ...seen].sort((a, b) => a.frame - b.frame)
  }, [cache, cacheVersion, gesture, plate, told])
}
