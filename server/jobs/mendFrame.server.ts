import type { Samples } from '../../core/image/samples'
import { wholePicture } from '../../core/image/rect'
import { layPatches } from '../../core/evaluate/finished'
import type { Frame } from '../../core/time'
import type { ComputePool } from '../../workers/pool'
import type { PlateReference } from '../../workers/protocol'
import type { FrameStore } from '../frames/store.server'

/** What is mended, by whom, and how many channels the result has. */
export interface MendingRun {
  readonly frames: FrameStore
  readonly pool: ComputePool
  readonly plate: PlateReference
  /** Of a document that the pool has been given. */
  readonly documentId: string
  readonly channels: number
  readonly signal?: AbortSignal
}

/** One whole finished frame: the plate with its mends laid over it. */
export async function mendFrame(run: MendingRun, frame: Frame): Promise<Samples> {
  const { frames, pool, plate, documentId, channels, signal } = run
  const [samples, answer] = await Promise.all([
    frames.readRect(plate.plateId, plate, frame, wholePicture(plate)),
    pool.run({ kind: 'evaluate', plate, documentId, frame, isDraft: false }, { signal }),
  ])
  return layPatches(samples, answer.patches, channels)
}
