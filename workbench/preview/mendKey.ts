import { isActiveAt } from '../../core/mend/evaluate'
import { pathPointsAt } from '../../core/mend/keys'
import type { Mend, MendRecord } from '../../core/mend/schema'

/**
 * A key that is equal exactly when the mended frame is: what is on, where, how. Names and keys on
 * other frames do not count, so an undo finds its frames again.
 */
export function mendedFrameKey(mends: readonly Mend[], frame: number): string {
  const parts = mends.filter((mend) => isActiveAt(mend, frame)).map(({ id, area, fill, finish }) => [id, pathPointsAt(area, frame), fill, finish])
  return JSON.stringify(parts)
}

export const stackOf = (records: Iterable<MendRecord>): MendRecord[] => [...records].sort((a, b) => a.order - b.order || (a.id < b.id ? -1 : 1))
