/** Good places to copy from, found by a worker with a picture of what each comes to; asked again, the next best is taken. */
import isSame from 'fast-deep-equal'
import { useMemo } from 'react'
import { toast } from 'sonner'
import { sourceAt } from '../../core/evaluate/suggest/suggestedResults'
import type { MendRecord } from '../../core/document/mend'
import { setSource } from '../../core/document/sourceCommands'
import type { Tracks } from '../../core/document/tracks'
import { StoppedError } from '../../workers/pool'
import { useBenchParts, type BenchParts } from '../BenchContext'
import type { BenchState } from '../store/benchState'
import { shotDocumentOf } from '../store/shotDocument'

const URGENCY = 4 // before frames that are only rendered ahead

export function useSuggest() {
  const parts = useBenchParts()
  return useMemo(
    () => ({
      /** Looks for places for an area, takes the best of them, and shows the others beside it. */
      suggest: (mendId: string, areaId: string) => suggest(parts, mendId, areaId),
      /** The next of the places that were suggested for an area, and round again; where none were, it looks for them. */
      next: (mendId: string, areaId: string) => {
        const { suggested, records, tracks } = parts.store.getState()
        const area = records.get(mendId)?.areas.find(({ id }) => id === areaId)
        const mend = records.get(mendId)
        if (mend && suggested?.mendId === mendId && suggested.area === area)
          return take(parts, (takenOf(mend, suggested, tracks) + 1) % suggested.sources.length)
        return void suggest(parts, mendId, areaId)
      },
      /** One of the places that were suggested. */
      take: (index: number) => take(parts, index),
    }),
    [parts],
  )
}

/** Which of the suggested places a mend copies from now; −1 for none of them. */
export const takenOf = (
  mend: MendRecord,
  { area, sources }: NonNullable<BenchState['suggested']>,
  tracks: Tracks,
): number => sources.findIndex((shift) => isSame(mend.source, sourceAt(mend, area, tracks, shift)))

function take({ store }: BenchParts, index: number): void {
  const { suggested, records, tracks, commit } = store.getState()
  const mend = suggested && records.get(suggested.mendId)
  const shift = suggested?.sources[index]
  if (!mend || !shift) return
  commit(setSource(mend, sourceAt(mend, suggested.area, tracks, shift), `Suggested place ${index + 1}`))
}

async function suggest(parts: BenchParts, mendId: string, areaId: string): Promise<void> {
  const { store, pool, plateReference, scene, shotId } = parts
  const { records, frame, suggestingFor, setSuggested, setSuggestingFor } = store.getState()
  const area = records.get(mendId)?.areas.find((one) => one.id === areaId)
  if (!area || !pool || suggestingFor) return
  setSuggestingFor(mendId)
  // What was drawn just now is in the store, but not shown yet.
  pool.setDocument(shotId, shotDocumentOf(store.getState(), scene.scene))
  try {
    const request = { mendId, areaId, frame }
    const sources = await pool.run(
      { kind: 'suggest', plate: plateReference, documentId: shotId, request },
      { urgency: URGENCY },
    )
    const now = store
      .getState()
      .records.get(mendId)
      ?.areas.find((one) => one.id === areaId)
    if (now !== area) return // it was moved meanwhile: places for where it was are of no use
    if (sources.length === 0) {
      setSuggested(null)
      toast.info(
        'No place near the area is free over the whole span. Make the area smaller, or place the source by hand.',
      )
      return
    }
    setSuggested({ mendId, area, sources })
    take(parts, 0)
  } catch (cause) {
    if (!(cause instanceof StoppedError))
      toast.error(`No source could be looked for: ${(cause as Error).message}`)
  } finally {
    setSuggestingFor(null)
  }
}
