/** Spots on the skin of a mend, looked for by a worker on the frame that is looked at. */
import { toast } from 'sonner'
import type { BenchParts } from '../BenchContext'
import { whileFollowing } from './whileFollowing'

export async function findBlemishes(parts: BenchParts, mendId: string): Promise<void> {
  const { store } = parts
  const { frame } = store.getState()
  const work = {
    kind: 'spots',
    mendId,
    words: 'Looking for blemishes',
    failure: 'Blemishes could not be looked for',
    more: {},
  } as const
  await whileFollowing(parts, work, ({ spots }) => {
    if (spots && spots.length > 0)
      store
        .getState()
        .setFoundSpots({ mendId, frame, spots: spots.map((spot) => ({ ...spot, isLeft: false })) })
    else if (spots)
      toast.info(
        'No spot stands out from the skin on this frame. Try one with other light, or click them by hand: New mend, Blemish.',
      )
  })
}
