import { useLayoutEffect, useRef, useState } from 'react'
import type { Mend } from '../../core/mend/schema'
import type { Snag } from '../../core/mend/snags'
import { snaggedFrames, stitchPath, type Stitch } from './stitches'

interface StitchRowProps {
  readonly mend: Mend
  readonly snags?: readonly Snag[]
  readonly firstFrame: number
  readonly lastFrame: number
  readonly height: number
}

export function StitchRow({ mend, snags = [], firstFrame, lastFrame, height }: StitchRowProps) {
  const element = useRef<SVGSVGElement>(null)
  const [width, setWidth] = useState(0)
  useLayoutEffect(() => {
    const observer = new ResizeObserver(() => setWidth(element.current?.clientWidth ?? 0))
    observer.observe(element.current!)
    return () => observer.disconnect()
  }, [])
  const step = width / (lastFrame - firstFrame + 1)
  const snagged = snaggedFrames(snags, mend.id)
  const d = (look: Stitch) => (width > 0 ? stitchPath(mend, firstFrame, lastFrame, step, height, look, snagged) : '')
  return (
    <svg ref={element} className="block w-full" height={height} aria-hidden fill="none" strokeLinecap="round">
      <path d={d('solid')} stroke="var(--color-thread)" strokeWidth={2} />
      <path d={d('thin')} stroke="var(--color-thread)" strokeWidth={1} />
      <path d={d('broken')} stroke="var(--color-snag)" strokeWidth={2} />
      <path d={d('gap')} stroke="var(--color-soft)" strokeWidth={1.4} strokeOpacity={0.6} />
    </svg>
  )
}
