/** Spots on the skin of a mend, looked for by a worker on the frame that is looked at. */
import type { BenchParts } from '../BenchContext'
import { sayNoSpots } from '../column/SkinTools'
import { whileFollowing } from './whileFollowing'

export async function findBlemishes(parts: BenchParts, mendId: string): Promise<void> {
  const { store } = parts
  const { frame, records } = store.getState()
  const area = records.get(mendId)?.areas[0]
  if (!area) return
  const work = {
    kind: 'spots',
    mendId,
    areaId: area.id,
    trackId: `spots of ${mendId}`,
    words: 'Looking for blemishes',
    failure: 'Blemishes could not be looked for',
  } as const
  await whileFollowing(parts, work, ({ spots }) => {
    if (spots && spots.length > 0)
      store
        .getState()
        .setFoundSpots({ mendId, frame, spots: spots.map((spot) => ({ ...spot, isLeft: false })) })
    else sayNoSpots()
  })
}
