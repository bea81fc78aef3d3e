/** Faces in a mend of skin, looked for by a worker from the frame that is looked at on: what must stay sharp of them is held out. */
import { toast } from 'sonner'
import { v4 as newId } from 'uuid'
import { holdOutFound } from '../../core/document/faceFound'
import type { BenchParts } from '../BenchContext'
import { whileFollowing } from './whileFollowing'

/** @param isAsked  Whether somebody waits for an answer, or it is only tried. */
export async function findFaces(parts: BenchParts, mendId: string, isAsked: boolean): Promise<void> {
  const { store } = parts
  const { frame } = store.getState()
  const work = {
    kind: 'faces',
    mendId,
    words: 'Looking for eyes, brows and lips',
    failure: 'Faces could not be looked for',
    more: {},
  } as const
  await whileFollowing(parts, work, ({ faces }) => {
    const state = store.getState()
    const mend = state.records.get(mendId)
    if (!mend || !faces) return
    if (faces.length > 0) state.commit(holdOutFound(state, mend, faces, frame, newId))
    else if (isAsked)
      toast.info(
        'No face was found on this frame. Try one that shows it from the front, or hold eyes and lips out by hand: Area, Add, Holdout.',
      )
  })
}
