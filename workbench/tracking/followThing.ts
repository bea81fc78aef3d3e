/** An area that goes with the thing it was drawn round, followed by a worker through the whole span of its mend. */
import { toast } from 'sonner'
import type { KeyedArea } from '../../core/document/areas'
import { followThingFound } from '../../core/document/followedThing'
import type { MendRecord } from '../../core/document/mend'
import { UNSURE_BELOW } from '../../core/document/tracks'
import type { TrackedFrame } from '../../core/motion/runTrack'
import { StoppedError } from '../../workers/pool'
import type { BenchParts } from '../BenchContext'
import { shotDocumentOf } from '../store/shotDocument'
import { TRACK_URGENCY } from './followAll'

export async function followThing(parts: BenchParts, mend: MendRecord, area: KeyedArea): Promise<void> {
  const { store, pool, plateReference, scene, shotId } = parts
  const { following, setFollowing } = store.getState()
  if (!pool || following || !scene.scene) return
  const stop = new AbortController()
  const id = crypto.randomUUID()
  const words = `Following the thing of ${mend.name}`
  const begunMs = performance.now()
  const tell = (done: number, total: number) =>
    setFollowing({
      trackId: id,
      words,
      done,
      total,
      begunMs,
      live: [],
      standIn: null,
      stop: () => stop.abort(),
    })
  tell(0, 1)
  // What was drawn just now is in the store, but not shown yet.
  pool.setDocument(shotId, shotDocumentOf(store.getState(), scene.scene))
  try {
    const job = {
      kind: 'thing',
      plate: plateReference,
      documentId: shotId,
      mendId: mend.id,
      areaId: area.id,
    } as const
    const found = await pool.run(job, { urgency: TRACK_URGENCY, signal: stop.signal, onShare: tell })
    if (!found.ok && found.reason === 'like-background') {
      toast.warning(
        'It hides the same background on all frames, and cannot be told from it. Nothing was changed: carry it along, or outline it on more frames.',
        { duration: 8000 },
      )
    }
    if (!found.ok) return
    const state = store.getState()
    const now = state.records.get(mend.id)
    if (!now?.areas.includes(area)) return // it was changed meanwhile: it would go elsewhere
    state.commit(followThingFound(state, now, area, state.plate, found.frames, id))
    const { follow } = store
      .getState()
      .records.get(mend.id)!
      .areas.find((one) => one.id === area.id)!
    state.selectTrack(follow?.trackId ?? null)
    sayUnsure(found.frames)
  } catch (cause) {
    if (!(cause instanceof StoppedError))
      toast.error(`The thing could not be followed: ${(cause as Error).message} Nothing was changed.`)
  } finally {
    setFollowing(null)
  }
}

function sayUnsure(frames: readonly TrackedFrame[]): void {
  const unsure = frames.filter(({ sure }) => sure < UNSURE_BELOW)
  if (unsure.length === 0) return
  toast.warning(
    `Not sure where it is on ${unsure.length} of ${frames.length} frames, the first ${unsure[0]!.frame}. Look there, and set the outline right where it is off.`,
  )
}
