import { planFrame } from '../../core/plan/planFrame'
import type { Mend, MendRecord } from '../../core/document/mend'
import type { FrameRange } from '../../core/time'
import type { Tracks } from '../../core/document/tracks'
import type { Scene } from '../../core/scene/scene'

/**
 * A key that is equal exactly when the mended frame is: what is on, where, how. Names and keys on
 * other frames do not count, so an undo finds its frames again.
 */
export const mendedFrameKey = (
  mends: readonly Mend[],
  tracks: Tracks,
  frame: number,
  plate: FrameRange,
  scene: Scene | null = null,
): string => JSON.stringify(planFrame(mends, tracks, frame, plate, scene))

export const stackOf = (records: Iterable<MendRecord>): MendRecord[] =>
  [...records].sort((a, b) => a.stackIndex - b.stackIndex || (a.id < b.id ? -1 : 1))
