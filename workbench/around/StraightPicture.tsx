/** The all-round picture seen straight: pulled about, nearer and further. */
import { useEffect, useState } from 'react'
import type { StraightView } from '../../core/sphere/straightView'
import { pulled, turned, zoomed } from './turning'

/** Of the picture that is asked for; it is shown as large as there is room. */
const SIDE_PX = 640
const STEP_DEG = 5

export interface StraightPictureProps {
  readonly shotId: string
  readonly frame: number
  readonly view: StraightView
  onTurn(view: StraightView): void
}

const addressOf = ({
  shotId,
  frame,
  view,
}: Pick<StraightPictureProps, 'shotId' | 'frame' | 'view'>): string =>
  `/shots/${shotId}/straight/${frame}?headingDeg=${view.headingDeg}&pitchDeg=${view.pitchDeg}&angleDeg=${view.angleDeg}&side=${SIDE_PX}`

export function StraightPicture({ shotId, frame, view, onTurn }: StraightPictureProps) {
  const wanted = addressOf({ shotId, frame, view })
  const shown = useShown(wanted)
  return (
    <div
      role="application"
      aria-label={`Straight view. Heading ${view.headingDeg}°, pitch ${view.pitchDeg}°, angle of view ${view.angleDeg}°. Arrow keys turn it, plus and minus bring it nearer and further.`}
      tabIndex={0}
      className="relative aspect-square h-full max-w-full cursor-grab touch-none overflow-hidden bg-well focus-visible:outline-2 focus-visible:outline-thread active:cursor-grabbing"
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={(event) => {
        if (!event.currentTarget.hasPointerCapture(event.pointerId)) return
        onTurn(pulled(view, event.movementX, event.movementY, event.currentTarget.clientWidth))
      }}
      onWheel={(event) => onTurn(zoomed(view, Math.sign(event.deltaY)))}
      onKeyDown={(event) => {
        const next = byKey(view, event.key)
        if (!next) return
        event.preventDefault()
        onTurn(next)
      }}
    >
      {shown && (
        <img
          src={shown}
          alt=""
          draggable={false}
          className="pointer-events-none size-full"
          data-testid="straight"
          data-current={shown === wanted}
        />
      )}
    </div>
  )
}

function byKey(view: StraightView, key: string): StraightView | null {
  switch (key) {
    case 'ArrowLeft':
      return { ...view, headingDeg: turned(view.headingDeg - STEP_DEG) }
    case 'ArrowRight':
      return { ...view, headingDeg: turned(view.headingDeg + STEP_DEG) }
    case 'ArrowUp':
      return { ...view, pitchDeg: Math.min(90, view.pitchDeg + STEP_DEG) }
    case 'ArrowDown':
      return { ...view, pitchDeg: Math.max(-90, view.pitchDeg - STEP_DEG) }
    case '+':
      return zoomed(view, -1)
    case '-':
      return zoomed(view, 1)
    default:
      return null
  }
}

/** The picture that has come last: while one is on its way none is asked for but the one that is wanted when it has come. */
function useShown(wanted: string): string | null {
  const [shown, setShown] = useState<string | null>(null)
  const [coming, setComing] = useState<string | null>(null)
  useEffect(() => {
    if (coming !== null || shown === wanted) return
    const image = new Image()
    const done = (address: string | null) => () => {
      if (address) setShown(address)
      setComing(null)
    }
    setComing(wanted)
    image.onload = done(wanted)
    image.onerror = done(null)
    image.src = wanted
  }, [coming, shown, wanted])
  return shown
}
