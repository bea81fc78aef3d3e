/** Work on a mend that a worker does in one go: progress is shown, it can be stopped, and what went wrong is said. */
import { toast } from 'sonner'
import { StoppedError } from '../../workers/pool'
import type {
  AnswerTo,
  FacesJob,
  LightsJob,
  MarkJob,
  ToneJob,
  PlaceMarkJob,
  SpotsJob,
  ThingJob,
} from '../../workers/protocol'
import type { KeyedArea } from '../../core/document/areas'
import type { MendRecord } from '../../core/document/mend'
import type { BenchParts } from '../BenchContext'
import type { BenchState } from '../store/benchState'
import { shotDocumentOf } from '../store/shotDocument'
import { TRACK_URGENCY } from './followAll'

type MendJob = FacesJob | LightsJob | ToneJob | MarkJob | PlaceMarkJob | SpotsJob | ThingJob

interface Work<K extends MendJob['kind']> {
  readonly kind: K
  readonly mendId: string
  /** What it goes by while it is shown, where that is not the mend. */
  readonly trackId?: string
  /** What is done, as the progress says it; and what could not be done, as an error says it. */
  readonly words: string
  readonly failure: string
  /** What else this kind of work is told. */
  readonly more: Omit<JobOf<K>, 'kind' | 'plate' | 'documentId' | 'mendId' | 'frame'>
}

type JobOf<K extends MendJob['kind']> = Extract<MendJob, { readonly kind: K }>

/**
 * One piece of work at a time.
 * @param take  What is done with the answer; not called after it was stopped.
 * @returns Whether it came to its end, however that was: false where it was stopped, or other work is going on.
 */
export async function whileFollowing<K extends MendJob['kind']>(
  { store, pool, plateReference, scene, shotId }: BenchParts,
  { kind, mendId, trackId = mendId, words, failure, more }: Work<K>,
  take: (answer: AnswerTo<JobOf<K>>) => void | Promise<void>,
): Promise<boolean> {
  const { following, setFollowing } = store.getState()
  if (!pool || following) return false
  const stop = new AbortController()
  const begunMs = performance.now()
  const tell = (done: number, total: number) =>
    setFollowing({ trackId, words, done, total, begunMs, live: [], standIn: null, stop: () => stop.abort() })
  tell(0, 1)
  // What was drawn just now is in the store, but not shown yet.
  pool.setDocument(shotId, shotDocumentOf(store.getState(), scene.scene))
  try {
    const { frame } = store.getState()
    const job = {
      kind,
      plate: plateReference,
      documentId: shotId,
      mendId,
      frame,
      ...more,
    } as MendJob as JobOf<K>
    const answer = await pool.run(job, { urgency: TRACK_URGENCY, signal: stop.signal, onShare: tell })
    if (!stop.signal.aborted) await take(answer)
  } catch (cause) {
    if (!(cause instanceof StoppedError))
      toast.error(`${failure}: ${(cause as Error).message} Nothing was changed.`)
  } finally {
    setFollowing(null)
  }
  return !stop.signal.aborted
}

/** The mend as it is now; null, and said so, where the area was changed meanwhile: what was found would lie elsewhere. */
export function unchangedMend(
  { records }: Pick<BenchState, 'records'>,
  mendId: string,
  area: KeyedArea,
): MendRecord | null {
  const now = records.get(mendId)
  if (now?.areas.includes(area)) return now
  toast.warning(
    'The area was changed meanwhile. Nothing else was changed: do it again from where it lies now.',
  )
  return null
}
