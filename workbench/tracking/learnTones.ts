/** Tones of a mend's skin, learnt by a worker from the picture; and where the light changes them. */
import { toast } from 'sonner'
import { setFillParam } from '../../core/document/commands'
import type { ToneDisc } from '../../core/evaluate/learnTones'
import { skinSettings } from '../../core/fill/evenSkin/evenSkin'
import type { LightChange } from '../../core/skin/lightChanges'
import { withTone, type SetTone, type ToneUse } from '../../core/skin/tonesSet'
import type { BenchParts } from '../BenchContext'
import { whileFollowing } from './whileFollowing'

const LABELS: Readonly<Record<ToneUse, string>> = {
  learnt: 'Learn the tone',
  added: 'Add a tone',
  taken: 'Take a tone away',
}

/** Learns a tone on the frame that is looked at: of the area, or of a disc that is added to it or taken away. */
export async function learnTone(
  parts: BenchParts,
  mendId: string,
  use: ToneUse,
  disc: ToneDisc | null,
): Promise<void> {
  const { store } = parts
  const { frame } = store.getState()
  const work = {
    kind: 'tone',
    mendId,
    words: 'Learning the tone',
    failure: 'The tone could not be learnt',
    more: { use, disc },
  } as const
  await whileFollowing(parts, work, ({ tone }) => {
    if (tone) keepTones(parts, mendId, [tone], `${LABELS[use]} on ${frame}`)
    else toast.info('Too little is seen there to tell a tone by. Drag over more of it, or try another frame.')
  })
}

/** Tones are set, as one step. */
export function keepTones(
  { store }: BenchParts,
  mendId: string,
  more: readonly SetTone[],
  label: string,
): void {
  const { records, commit } = store.getState()
  const mend = records.get(mendId)
  if (!mend) return
  const tones = more.reduce(withTone, skinSettings(mend.fill.params).tones)
  commit(setFillParam(mend, 'tones', tones, label))
}

/** @returns Changes of the light that no tone is learnt for; null where it was stopped. */
export async function findLightChanges(
  parts: BenchParts,
  mendId: string,
): Promise<readonly LightChange[] | null> {
  let found: readonly LightChange[] | null = null
  const work = {
    kind: 'lights',
    mendId,
    words: 'Looking for changes of the light',
    failure: 'Changes of the light could not be looked for',
    more: {},
  } as const
  await whileFollowing(parts, work, ({ changes }) => {
    found = changes
    if (changes?.length === 0)
      toast.info('The light on this skin does not change so that another tone is needed.')
  })
  return found
}
