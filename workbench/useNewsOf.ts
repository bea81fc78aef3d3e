/** Calls back whenever the server says that something of a shot has changed, and when the connection stands (again). */
import { useEffect } from 'react'
import type { NewsKind, NewsStep } from '../core/jobs/news'
import { hearNews } from './news'

/** @param onStep  Told how far work is: then nothing is asked for again. @param onStep, refetch  Always the same ones. */
export function useNewsOf(
  kind: NewsKind,
  shotId: string,
  refetch: () => void,
  onStep: (step: NewsStep) => void,
): void {
  useEffect(
    () =>
      hearNews({
        kinds: [kind],
        onNews: ({ id, step }) => {
          if (id !== shotId) return
          if (step) onStep(step)
          else refetch()
        },
        onOpen: refetch,
      }),
    [kind, onStep, refetch, shotId],
  )
}
