import { useEffect } from 'react'
import { useRevalidator } from 'react-router'

const SETTLE_MS = 150

/** Looks again at the page's data whenever the server says that something of these kinds changed. */
export function useNews(...kinds: readonly ('import' | 'version' | 'shot' | 'scene' | 'camera')[]): void {
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
    const source = new EventSource('/events')
    for (const name of names.split(' ')) source.addEventListener(name, lookAgain)
    // After a break something may have been missed.
    source.addEventListener('open', lookAgain)
    return () => {
      source.close()
      clearTimeout(timer)
    }
  }, [names, revalidate])
}
