import { layPatches } from '../../core/evaluate/finished'
import type { Samples } from '../../core/image/samples'
import { wholePicture } from '../../core/image/rect'
import type { ShotDocument } from '../../core/plan/shotDocument'
import type { Frame, FrameRange } from '../../core/time'
import type { ComputePool } from '../../workers/pool'
import type { PlateReference } from '../../workers/protocol'
import type { FrameStore } from '../frames/store.server'
import type { FrameSink } from '../media/encode.server'

/** What is mended, by whom, and how many channels the result has. */
export interface RenderRun {
  readonly frames: FrameStore
  readonly pool: ComputePool
  readonly plate: PlateReference
  readonly document: ShotDocument
  readonly channels: number
  readonly signal?: AbortSignal
}

/** Frames begun beyond those that all cores work on, so that none of them waits for the encoder. */
const FRAMES_IN_HAND = 2

/** Mends frames, as many at once as there are workers, and writes them in their order. @param onWritten  Told how many are written. */
export async function renderFrames(
  run: RenderRun,
  { firstFrame, lastFrame }: FrameRange,
  sink: Pick<FrameSink, 'write'>,
  onWritten: (frames: number) => Promise<void>,
): Promise<void> {
  await run.pool.withDocument(run.document, async (documentId) => {
    const begin = (frame: Frame) => {
      const made = mendFrame(run, documentId, frame)
      made.catch(() => undefined) // awaited in its turn; a failure before that must not end the process
      return made
    }
    const ahead: Promise<Samples>[] = []
    let next = firstFrame
    for (let frame = firstFrame; frame <= lastFrame; frame++) {
      while (next <= lastFrame && ahead.length < run.pool.size + FRAMES_IN_HAND) ahead.push(begin(next++))
      await sink.write(await ahead.shift()!)
      await onWritten(frame - firstFrame + 1)
    }
  })
}

/** One whole finished frame: the plate with its mends laid over it. */
async function mendFrame(run: RenderRun, documentId: string, frame: Frame): Promise<Samples> {
  const { frames, pool, plate, channels, signal } = run
  const [samples, answer] = await Promise.all([
    frames.readRect(plate.plateId, plate, frame, wholePicture(plate)),
    pool.run({ kind: 'evaluate', plate, documentId, frame, isDraft: false }, { signal }),
  ])
  return layPatches(samples, answer.patches, channels)
}
