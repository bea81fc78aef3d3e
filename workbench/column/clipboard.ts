import { toast } from 'sonner'
import { v4 as newId } from 'uuid'
import { copyArea, pasteKeys } from '../../core/document/areaCommands'
import type { MendRecord } from '../../core/document/mend'
import type { BenchStore } from '../store/bench'

/** Pastes what was copied: keys into an area, at the frame looked at, or a whole area into the mend. */
export function pasteInto(store: BenchStore, mend: MendRecord, areaId: string): void {
  const { clipboard, frame, commit, selectArea } = store.getState()
  if (!clipboard) return
  if (!clipboard.frames) {
    const id = newId().slice(0, 8)
    commit(copyArea(mend, clipboard.area, id))
    selectArea(id)
    return
  }
  const edit =
    clipboard.area.shape === 'matte' ? null : pasteKeys(mend, areaId, clipboard.area, clipboard.frames, frame)
  if (edit) commit(edit)
  else
    toast.info(
      'These keys are of another shape, or have another number of points. Paste the whole area instead.',
    )
}
