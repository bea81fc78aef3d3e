/** An area that goes with the thing it was drawn round, followed by a worker through the whole span of its mend. */
import { toast } from 'sonner'
import { v4 as newId } from 'uuid'
import type { KeyedArea } from '../../core/document/areas'
import { followThingFound } from '../../core/document/followedThing'
import type { MendRecord } from '../../core/document/mend'
import { UNSURE_BELOW } from '../../core/document/tracks'
import type { TrackedFrame } from '../../core/motion/runTrack'
import type { BenchParts } from '../BenchContext'
import { unchangedMend, whileFollowing } from './whileFollowing'

export async function followThing(parts: BenchParts, mend: MendRecord, area: KeyedArea): Promise<void> {
  const { store, scene } = parts
  if (!scene.scene) return
  const trackId = newId()
  const words = `Following the thing of ${mend.name}`
  const failure = 'The thing could not be followed'
  const work = { kind: 'thing', mendId: mend.id, trackId, words, failure, more: { areaId: area.id } } as const
  await whileFollowing(parts, work, (found) => {
    if (!found.ok) {
      if (found.reason === 'like-background')
        toast.warning(
          'It hides the same background on all frames, and cannot be told from it. Nothing was changed: carry it along, or outline it on more frames.',
          { duration: 8000 },
        )
      return
    }
    const state = store.getState()
    const now = unchangedMend(state, mend.id, area)
    if (!now) return
    state.commit(followThingFound(state, now, area, state.plate, found.frames, trackId))
    const { follow } = store
      .getState()
      .records.get(mend.id)!
      .areas.find((one) => one.id === area.id)!
    state.selectTrack(follow?.trackId ?? null)
    sayUnsure(found.frames)
  })
}

function sayUnsure(frames: readonly TrackedFrame[]): void {
  const unsure = frames.filter(({ sure }) => sure < UNSURE_BELOW)
  if (unsure.length === 0) return
  toast.warning(
    `Not sure where it is on ${unsure.length} of ${frames.length} frames, the first ${unsure[0]!.frame}. Look there, and set the outline right where it is off.`,
  )
}
