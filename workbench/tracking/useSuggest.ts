/** Good places to copy from, found by a worker; asked again, the next best is taken. */
import { useCallback } from 'react'
import { toast } from 'sonner'
import { setSource } from '../../core/document/sourceCommands'
import { restingSource } from '../../core/document/sourceKeys'
import { StoppedError } from '../../workers/pool'
import type { SuggestAnswer } from '../../workers/protocol'
import { useBenchParts } from '../BenchContext'
import { shotDocumentOf } from '../store/shotDocument'

const URGENCY = 4 // before frames that are only rendered ahead

export function useSuggest(): (mendId: string, areaId: string) => Promise<void> {
  const { store, pool, plateReference, scene, shotId } = useBenchParts()
  return useCallback(
    async (mendId: string, areaId: string) => {
      const { suggested, records, frame, suggestingFor, setSuggested, setSuggestingFor } = store.getState()
      const mend = records.get(mendId)
      const area = mend?.areas.find((one) => one.id === areaId)
      if (!mend || !area || !pool || suggestingFor) return
      const take = (sources: SuggestAnswer, taken: number) => {
        const now = store.getState().records.get(mendId)
        const source = sources[taken]
        if (!now || !source) return
        store
          .getState()
          .commit(
            setSource(
              now,
              restingSource(now.span, { dx: source.dx, dy: source.dy, turnDeg: 0, scale: 1 }),
              `Suggested source ${taken + 1}`,
            ),
          )
        store.getState().setSuggested({ mendId, areaId, sources, taken })
      }
      // The area is where it was: the next best of the same list, and round again.
      if (suggested?.mendId === mendId && suggested.areaId === areaId && suggested.sources.length > 1) {
        return take(suggested.sources, (suggested.taken + 1) % suggested.sources.length)
      }
      setSuggestingFor(mendId)
      // What was drawn just now is in the store, but not shown yet.
      pool.setDocument(shotId, shotDocumentOf(store.getState(), scene.scene))
      try {
        const sources = await pool.run(
          { kind: 'suggest', plate: plateReference, documentId: shotId, request: { mendId, areaId, frame } },
          { urgency: URGENCY },
        )
        if (sources.length === 0) {
          setSuggested(null)
          toast.info(
            'No place near the area is free over the whole span. Make the area smaller, or place the source by hand.',
          )
        } else take(sources, 0)
      } catch (cause) {
        if (!(cause instanceof StoppedError))
          toast.error(`No source could be looked for: ${(cause as Error).message}`)
      } finally {
        setSuggestingFor(null)
      }
    },
    [plateReference, pool, scene.scene, shotId, store],
  )
}
