/** Whether frames ahead are filled just now: not while one paints, and a little after. The stroke that was painted comes first. */
import { useEffect, useState } from 'react'
import type { BenchStore } from '../store/bench'
import type { Tool } from '../tools/tool'
import { useAheadChoice } from './aheadChoice'

/** From one stroke to the next there is less: frames ahead would be begun and stopped again and again. */
const REST_MS = 1000

export function useFillsAhead(store: BenchStore): boolean {
  const isWanted = useAheadChoice((choice) => choice.fillsAhead)
  useEffect(() => void useAheadChoice.persist.rehydrate(), [])
  const [isResting, setResting] = useState(false)
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined
    const stop = store.subscribe(({ tool }, before) => {
      if (isPainting(tool) === isPainting(before.tool)) return
      clearTimeout(timer)
      if (isPainting(tool)) setResting(true)
      else timer = setTimeout(() => setResting(false), REST_MS)
    })
    return () => {
      stop()
      clearTimeout(timer)
    }
  }, [store])
  return isWanted && !isResting
}

const isPainting = (tool: Tool): boolean => tool.kind === 'brush' && tool.points.length > 0
