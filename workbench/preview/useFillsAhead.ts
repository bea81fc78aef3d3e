/** Whether frames ahead are filled just now: not while one paints, and a little after. The stroke that was painted comes first. */
import { useEffect, useState } from 'react'
import { useStore } from 'zustand'
import type { BenchStore } from '../store/bench'
import { useAheadChoice } from './aheadChoice'

/** From one stroke to the next there is less: frames ahead would be begun and stopped again and again. */
const REST_MS = 1000

export function useFillsAhead(store: BenchStore): boolean {
  const isWanted = useAheadChoice((choice) => choice.fillsAhead)
  useEffect(() => void useAheadChoice.persist.rehydrate(), [])
  const isPainting = useStore(store, ({ tool }) => tool.kind === 'brush' && tool.points.length > 0)
  const [isResting, setResting] = useState(false)
  useEffect(() => {
    if (isPainting) return () => setResting(true)
    const timer = setTimeout(() => setResting(false), REST_MS)
    return () => clearTimeout(timer)
  }, [isPainting])
  return isWanted && !isPainting && !isResting
}
