import type { Patch } from '../../core/evaluate/evaluatedFrame'
import { layPatches } from '../../core/evaluate/finished'
import { markRunsInto } from '../../core/image/runs'
import type { Samples } from '../../core/image/samples'
import { wholePicture } from '../../core/image/rect'
import type { MendMeasure } from '../../core/measure/mendMeasure'
import type { ShotDocument } from '../../core/plan/shotDocument'
import { putBack } from '../../core/sphere/putBack'
import { onAllRound, type ViewMapping } from '../../core/sphere/straightView'
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
  /** Of an all-round picture, what was mended in its views: put back in this order. */
  readonly views?: readonly RenderedView[]
  readonly signal?: AbortSignal
}

export interface RenderedView {
  readonly mapping: ViewMapping
  readonly plate: PlateReference
  readonly document: ShotDocument
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
  await withDocuments(run, async (documentIds) => {
    const begin = (frame: Frame) => {
      const made = mendFrame(run, documentIds, frame).then(({ finished }) => finished)
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

/** A finished frame, and what is known of it. */
export interface MendedFrame {
  readonly plate: Samples
  readonly finished: Samples
  /** Of its own mends. */
  readonly patches: readonly Patch[]
  /** Those of views as well. */
  readonly measures: readonly MendMeasure[]
  /** Pixels of an all-round picture that mends in views reach. */
  readonly ofViews: readonly Int32Array[]
}

/** One whole finished frame: the plate with its mends laid over it. */
export async function mendFrame(
  run: RenderRun,
  [documentId, ...ofViews]: DocumentIds,
  frame: Frame,
): Promise<MendedFrame> {
  const { frames, pool, plate, channels, views = [], signal } = run
  const [samples, answer] = await Promise.all([
    frames.readRect(plate.plateId, plate, frame, wholePicture(plate)),
    pool.run({ kind: 'evaluate', plate, documentId, frame, isDraft: false }, { signal }),
  ])
  const finished = layPatches(samples, answer.patches, channels)
  const reached: Int32Array[] = []
  const measures = [...answer.measures]
  for (const [i, view] of views.entries()) {
    const put = await putViewBack(run, view, ofViews[i]!, frame, finished)
    reached.push(...put.pixels)
    measures.push(...put.measures)
  }
  return { plate: samples, finished, patches: answer.patches, measures, ofViews: reached }
}

/** For each pixel of a finished frame, 1 where a mend has laid anything. */
export function mendedPixels({ plate, patches, ofViews }: MendedFrame): Uint8Array {
  const mended = new Uint8Array(plate.width * plate.height)
  for (const { rect, mendedRuns } of patches) markRunsInto(mended, plate.width, mendedRuns, rect)
  for (const pixels of ofViews) for (const pixel of pixels) mended[pixel] = 1
  return mended
}

async function putViewBack(
  { frames, pool, signal }: RenderRun,
  { mapping, plate }: RenderedView,
  documentId: string,
  frame: Frame,
  finished: Samples,
): Promise<{ readonly pixels: readonly Int32Array[]; readonly measures: readonly MendMeasure[] }> {
  const asked = { kind: 'evaluate', plate, documentId, frame, isDraft: false, tellsCovered: true } as const
  const { patches, measures } = await pool.run(asked, { signal })
  const placed = measures.map((one) => ({
    ...one,
    ...onAllRound(mapping.directionAt(one.x, one.y), finished),
  }))
  const pixels: Int32Array[] = []
  for (const patch of patches)
    pixels.push(
      putBack(finished, mapping, patch, await frames.readRect(plate.plateId, plate, frame, patch.rect)),
    )
  return { pixels, measures: placed }
}

export type DocumentIds = readonly [own: string, ...ofViews: string[]]

/** The pool has the documents of a run for as long as it is worked on. */
export function withDocuments(
  { pool, document, views = [] }: Pick<RenderRun, 'pool' | 'document' | 'views'>,
  work: (ids: DocumentIds) => Promise<void>,
): Promise<void> {
  const open = (left: readonly RenderedView[], ids: DocumentIds): Promise<void> => {
    const [first, ...others] = left
    return first ? pool.withDocument(first.document, (id) => open(others, [...ids, id])) : work(ids)
  }
  return pool.withDocument(document, (id) => open(views, [id]))
}
