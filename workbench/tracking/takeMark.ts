/** A mark that is taken off: its picture is worked out by a worker, kept by the server, and undone by the fill of its mend. */
import { toast } from 'sonner'
import type { KeyedArea } from '../../core/document/areas'
import { doubtAbout, wordsOfDoubt } from '../../core/document/markDoubts'
import { isOpaque, isPartOfMark, takeMarkOff, type MarkShownBy } from '../../core/document/markTaken'
import type { MendRecord } from '../../core/document/mend'
import { samplesFromMark, type MarkPicture } from '../../core/image/markPicture'
import { markToldBy } from '../../core/plan/findMark'
import type { TakenMarkFound } from '../../core/evaluate/takenMark'
import type { BenchParts } from '../BenchContext'
import { unchangedMend, whileFollowing } from './whileFollowing'

/** @returns false where it was stopped. */
export async function takeMark(parts: BenchParts, mend: MendRecord, area: KeyedArea): Promise<boolean> {
  const { store, plateReference } = parts
  const words = `Looking at ${mend.name}`
  const failure = 'The mark could not be looked at'
  const work = {
    kind: 'mark',
    mendId: mend.id,
    trackId: area.id,
    words,
    failure,
    more: { areaId: area.id },
  } as const
  return whileFollowing(parts, work, async ({ found }) => {
    if (!found) return void toast.warning('No frame of its span shows the mark. Nothing was changed.')
    const needsPicture = !isOpaque(found) && found.shownBy !== 'others'
    const name = !needsPicture ? '' : await keepPicture(plateReference.markLocation, found.picture)
    const state = store.getState()
    const now = unchangedMend(state, mend.id, area)
    if (!now) return
    const edit = takeMarkOff(now, state.tracks, { ...found, name })
    if (edit.changes.length > 0) state.commit(edit)
    sayHowSure(found)
  })
}

/** Several marks, one after the other, until it is stopped: those of mends that were accepted from finds. */
export async function takeMarks(parts: BenchParts, mendIds: readonly string[]): Promise<void> {
  for (const id of mendIds) {
    const mend = parts.store.getState().records.get(id)
    const area = mend?.areas.find(isPartOfMark)
    if (mend && area && !(await takeMark(parts, mend, area))) return
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

function sayHowSure(found: TakenMarkFound): void {
  const told = markToldBy(found)
  const doubt = doubtAbout(found, told)
  if (doubt) toast.warning(wordsOfDoubt(doubt, told), { duration: 8000 })
  else
    toast.success(
      `Taken off: other frames showed ${Math.round(100 * told.seenShare)} % of what is under the mark.${SHOWN_BY[found.shownBy]}`,
    )
}

/** What was measured to be best on a few frames, and why. */
const SHOWN_BY: Readonly<Record<MarkShownBy, string>> = {
  undone: '',
  weighed: ' They are weighed in, as both together err less than what was undone by itself.',
  others: ' They show it better than what can be undone: Clean plate is used.',
}
