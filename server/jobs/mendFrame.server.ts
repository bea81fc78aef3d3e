import type { Samples } from '../../core/image/samples'
import { wholePicture } from '../../core/image/rect'
import { finishedChannels, layPatches } from '../../core/evaluate/finished'
import { planFrame } from '../../core/plan/planFrame'
import type { Mend } from '../../core/document/mend'
import type { Tracks } from '../../core/document/tracks'
import type { Scene } from '../../core/scene/scene'
import type { Frame, FrameRange } from '../../core/time'
import type { ComputePool } from '../../workers/pool'
import type { PlateReference } from '../../workers/protocol'
import type { FrameStore } from '../frames/store.server'

/** One whole finished frame: the plate with its mends laid over it. @param keepsAlpha  Whether holes may become an alpha channel. */
export async function mendFrame(
  frames: FrameStore,
  pool: ComputePool,
  plate: PlateReference,
  mends: readonly Mend[],
  tracks: Tracks,
  scene: Scene | null,
  range: FrameRange,
  frame: Frame,
  keepsAlpha: boolean,
  signal?: AbortSignal,
): Promise<Samples> {
  const [samples, answer] = await Promise.all([
    frames.readRect(plate.plateId, plate, frame, wholePicture(plate)),
    pool.run(
      { kind: 'evaluate', plate, plan: planFrame(mends, tracks, frame, range, scene), isDraft: false },
      { signal },
    ),
  ])
  return layPatches(samples, answer.patches, finishedChannels(plate.channels, mends, keepsAlpha))
}
