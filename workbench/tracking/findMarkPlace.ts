/** A mark whose picture is known, brought in or out of the library, is looked for in the shot and placed where it lies. */
import { toast } from 'sonner'
import type { KeyedArea } from '../../core/document/areas'
import { placeMarkAt } from '../../core/document/layMark'
import type { MendRecord } from '../../core/document/mend'
import { SURE_PLACE } from '../../core/plan/findPlace'
import type { BenchParts } from '../BenchContext'
import { unchangedMend, whileFollowing } from './whileFollowing'

export async function findMarkPlace(parts: BenchParts, mend: MendRecord, area: KeyedArea): Promise<void> {
  const words = `Looking for ${mend.name}`
  const failure = 'The mark could not be looked for'
  const work = {
    kind: 'place-mark',
    mendId: mend.id,
    trackId: area.id,
    words,
    failure,
    more: { areaId: area.id },
  } as const
  await whileFollowing(parts, work, ({ place }) => {
    if (!place) return void toast.warning('Its picture does not fit into the frame. Nothing was changed.')
    if (place.sure < SURE_PLACE) {
      return void toast.warning(
        'The mark was not found: nothing in the shot has its edges. Nothing was changed; place it by hand.',
        { duration: 8000 },
      )
    }
    const { store } = parts
    const now = unchangedMend(store.getState(), mend.id, area)
    if (!now) return
    store.getState().commit(placeMarkAt(now, area.id, place))
    toast.success(
      `Found, ${Math.round(place.x)} px from the left and ${Math.round(place.y)} px from the top.`,
    )
  })
}
