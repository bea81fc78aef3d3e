/** A mark that is taken off: its picture is worked out by a worker, kept by the server, and undone by the fill of its mend. */
import { toast } from 'sonner'
import type { KeyedArea } from '../../core/document/areas'
import { isOpaque, takeMarkOff } from '../../core/document/markTaken'
import type { MendRecord } from '../../core/document/mend'
import { samplesFromMark, type MarkPicture } from '../../core/image/markPicture'
import type { FoundMark } from '../../core/plan/findMark'
import { StoppedError } from '../../workers/pool'
import type { BenchParts } from '../BenchContext'
import { shotDocumentOf } from '../store/shotDocument'
import { TRACK_URGENCY } from './followAll'

export async function takeMark(parts: BenchParts, mend: MendRecord, area: KeyedArea): Promise<void> {
  const { store, pool, plateReference, scene, shotId } = parts
  const { following, setFollowing } = store.getState()
  if (!pool || following) return
  const stop = new AbortController()
  const words = `Looking at ${mend.name}`
  const begunMs = performance.now()
  const tell = (done: number, total: number) =>
    setFollowing({
      trackId: area.id,
      words,
      done,
      total,
      begunMs,
      live: [],
      standIn: null,
      stop: () => stop.abort(),
    })
  tell(0, 1)
  pool.setDocument(shotId, shotDocumentOf(store.getState(), scene.scene))
  try {
    const job = {
      kind: 'mark',
      plate: plateReference,
      documentId: shotId,
      mendId: mend.id,
      areaId: area.id,
    } as const
    const { found } = await pool.run(job, { urgency: TRACK_URGENCY, signal: stop.signal, onShare: tell })
    if (!found) {
      if (!stop.signal.aborted) toast.warning('No frame of its span shows the mark. Nothing was changed.')
      return
    }
    const name = isOpaque(found) ? '' : await keepPicture(plateReference.markLocation, found.picture)
    const state = store.getState()
    const now = state.records.get(mend.id)
    if (!now?.areas.includes(area)) return // it was changed meanwhile: the picture would lie elsewhere
    const edit = takeMarkOff(now, area, state.tracks, { ...found, name })
    if (edit.changes.length > 0) state.commit(edit)
    sayHowSure(found)
  } catch (cause) {
    if (!(cause instanceof StoppedError))
      toast.error(`The mark could not be looked at: ${(cause as Error).message} Nothing was changed.`)
  } finally {
    setFollowing(null)
  }
}

/** @returns The name under which the server keeps it. */
async function keepPicture(location: string, picture: MarkPicture): Promise<string> {
  const { width, height, data } = samplesFromMark(picture)
  const response = await fetch(`${location}?width=${width}&height=${height}`, {
    method: 'PUT',
    body: data.buffer as ArrayBuffer,
  })
  const answer = (await response.json().catch(() => ({}))) as { name?: string; message?: string }
  if (!response.ok || !answer.name)
    throw new Error(answer.message ?? `The server answered ${response.status}.`)
  return answer.name
}

/** So little seen, a mark is told by its own edges only. */
const HARDLY_SEEN = 0.2
const UNSURE_BELOW = 0.5

function sayHowSure(found: FoundMark): void {
  const seen = Math.round(100 * found.picture.seenShare)
  if (isOpaque(found))
    toast.warning('The mark hides what is under it: there is nothing to undo. It keeps its fill.', {
      duration: 8000,
    })
  else if (found.minSure < UNSURE_BELOW)
    toast.warning(
      'Not sure where the mark lies on all frames. Place it on one where it is off, and take it off again.',
    )
  else if (found.picture.seenShare < HARDLY_SEEN)
    toast.warning(`Other frames show only ${seen} % of what is under the mark: look at the result closely.`, {
      duration: 8000,
    })
  else toast.success(`Taken off: other frames showed ${seen} % of what is under the mark.`)
}
