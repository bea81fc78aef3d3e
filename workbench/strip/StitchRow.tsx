import { useLayoutEffect, useRef, useState } from 'react'
import type { Mend } from '../../core/document/mend'
import type { Snag } from '../../core/snags/snags'
import { snaggedFrames, stitchAt, stitchPath, type Stitch } from './stitches'

interface RowProps {
  readonly firstFrame: number
  readonly lastFrame: number
  readonly height: number
}

/** How a mend covers its frames. */
export function StitchRow({
  mend,
  snags = [],
  ...row
}: RowProps & { readonly mend: Mend; readonly snags?: readonly Snag[] }) {
  const snagged = snaggedFrames(snags, mend.id)
  return <StitchLine {...row} lookAt={(frame) => stitchAt(mend, frame, snagged)} />
}

/** One stitch a frame, as wide as the strip is. */
export function StitchLine({
  firstFrame,
  lastFrame,
  height,
  lookAt,
}: RowProps & { readonly lookAt: (frame: number) => Stitch }) {
  const element = useRef<SVGSVGElement>(null)
  const [width, setWidth] = useState(0)
  useLayoutEffect(() => {
    const observer = new ResizeObserver(() => setWidth(element.current?.clientWidth ?? 0))
    observer.observe(element.current!)
    return () => observer.disconnect()
  }, [])
  const step = width / (lastFrame - firstFrame + 1)
  const d = (look: Stitch) => (width > 0 ? stitchPath(lookAt, firstFrame, lastFrame, step, height, look) : '')
  return (
    <svg ref={element} className="block w-full" height={height} aria-hidden fill="none" strokeLinecap="round">
      <path d={d('solid')} stroke="var(--color-thread)" strokeWidth={2} />
      <path d={d('thin')} stroke="var(--color-thread)" strokeWidth={1} />
      <path d={d('broken')} stroke="var(--color-snag)" strokeWidth={2} />
      <path d={d('gap')} stroke="var(--color-soft)" strokeWidth={1.4} strokeOpacity={0.6} />
    </svg>
  )
}
