import { useEffect, useState } from 'react'
import { useBench } from '../BenchContext'

/** Whether a flip shows the plate just now. */
export function useFlip(): boolean {
  const isFlipping = useBench((bench) => bench.compare.mode === 'flip')
  const perSecond = useBench((bench) => bench.compare.perSecond)
  const [isFlipped, setFlipped] = useState(false)
  useEffect(() => {
    if (!isFlipping) return undefined
    const timer = setInterval(() => setFlipped((is) => !is), 1000 / perSecond)
    return () => clearInterval(timer)
  }, [isFlipping, perSecond])
  return isFlipping && isFlipped
}
