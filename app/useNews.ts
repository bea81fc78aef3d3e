import { useEffect } from 'react'
import { useRevalidator } from 'react-router'
import type { NewsKind } from '../core/jobs/news'
import { hearNews } from '../workbench/news'

const SETTLE_MS = 150

/** Looks again at the page's data whenever the server says that something of these kinds changed. */
export function useNews(...kinds: readonly NewsKind[]): void {
  const { revalidate } = useRevalidator()
  const names = kinds.join(' ')
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined
    const lookAgain = () => {
      timer ??= setTimeout(() => {
        timer = undefined
        void revalidate()
      }, SETTLE_MS)
    }
    const stop = hearNews({ kinds: names.split(' ') as NewsKind[], onNews: lookAgain, onOpen: lookAgain })
    return () => {
      stop()
      clearTimeout(timer)
    }
  }, [names, revalidate])
}
