import { layPatches } from '../../core/evaluate/finished'
import type { Samples } from '../../core/image/samples'
import { wholePicture } from '../../core/image/rect'
import type { ShotDocument } from '../../core/plan/shotDocument'
import { putBack } from '../../core/sphere/putBack'
import type { ViewMapping } from '../../core/sphere/straightView'
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
      const made = mendFrame(run, documentIds, frame)
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
async function mendFrame(
  run: RenderRun,
  [documentId, ...ofViews]: DocumentIds,
  frame: Frame,
): Promise<Samples> {
  const { frames, pool, plate, channels, views = [], signal } = run
  const [samples, answer] = await Promise.all([
    frames.readRect(plate.plateId, plate, frame, wholePicture(plate)),
    pool.run({ kind: 'evaluate', plate, documentId, frame, isDraft: false }, { signal }),
  ])
  const finished = layPatches(samples, answer.patches, channels)
  for (const [i, view] of views.entries()) await putViewBack(run, view, ofViews[i]!, frame, finished)
  return finished
}

async function putViewBack(
  { frames, pool, signal }: RenderRun,
  { mapping, plate }: RenderedView,
  documentId: string,
  frame: Frame,
  finished: Samples,
): Promise<void> {
  const asked = { kind: 'evaluate', plate, documentId, frame, isDraft: false, tellsCovered: true } as const
  const { patches } = await pool.run(asked, { signal })
  for (const patch of patches)
    putBack(finished, mapping, patch, await frames.readRect(plate.plateId, plate, frame, patch.rect))
}

type DocumentIds = readonly [own: string, ...ofViews: string[]]

/** The pool has the documents of a run for as long as it is worked on. */
function withDocuments(
  { pool, document, views = [] }: RenderRun,
  work: (ids: DocumentIds) => Promise<void>,
): Promise<void> {
  const open = (left: readonly RenderedView[], ids: DocumentIds): Promise<void> => {
    const [first, ...others] = left
    return first ? pool.withDocument(first.document, (id) => open(others, [...ids, id])) : work(ids)
  }
  return pool.withDocument(document, (id) => open(views, [id]))
}
