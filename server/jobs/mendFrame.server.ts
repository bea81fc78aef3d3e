import { pasteSamplesInto, type Samples } from '../../core/image/samples'
import { wholePicture } from '../../core/image/rect'
import { placeMends } from '../../core/mend/place'
import type { Mend } from '../../core/mend/schema'
import type { Tracks } from '../../core/mend/tracks'
import type { Frame } from '../../core/time'
import type { ComputePool } from '../../workers/pool'
import type { PlateReference } from '../../workers/protocol'
import type { FrameStore } from '../frames/store.server'

/** One whole finished frame: the plate with its mends laid over it. */
export async function mendFrame(
  frames: FrameStore,
  pool: ComputePool,
  plate: PlateReference,
  mends: readonly Mend[],
  tracks: Tracks,
  frame: Frame,
  signal?: AbortSignal,
): Promise<Samples> {
  const [samples, answer] = await Promise.all([
    frames.readRect(plate.plateId, plate, frame, wholePicture(plate)),
    pool.run({ kind: 'evaluate', plate, frame, mends: placeMends(mends, tracks, frame) }, { signal }),
  ])
  for (const patch of answer.patches) pasteSamplesInto(samples, patch.samples, patch.rect)
  return samples
}
