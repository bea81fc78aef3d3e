/** A stroke dragged by its line; the others that are chosen go along. Clicked with Shift it is no longer one of them. */
import { useRef, type PointerEvent } from 'react'
import { shiftStrokes } from '../../../core/document/strokeCommands'
import { useBenchParts } from '../../BenchContext'

export function useStrokeDrag(mendId: string, areaId: string) {
  const { store, view } = useBenchParts()
  const last = useRef<{ readonly x: number; readonly y: number } | null>(null)
  const onPointerDown = (event: PointerEvent<SVGPathElement>) => {
    if (event.button !== 0) return
    event.stopPropagation()
    event.currentTarget.setPointerCapture(event.pointerId)
    last.current = { x: event.clientX, y: event.clientY }
  }
  const onPointerMove = (event: PointerEvent<SVGPathElement>) => {
    if (!last.current) return
    const [dx, dy] = [
      (event.clientX - last.current.x) / view.scale,
      (event.clientY - last.current.y) / view.scale,
    ]
    last.current = { x: event.clientX, y: event.clientY }
    const { records, tracks, frame, alsoStrokes, preview } = store.getState()
    const mend = records.get(mendId)
    if (mend) preview(shiftStrokes(mend, new Set([areaId, ...alsoStrokes]), { dx, dy }, { tracks, frame }))
  }
  const onPointerUp = ({ shiftKey }: PointerEvent<SVGPathElement>) => {
    if (!last.current) return
    last.current = null
    const { gesture, alsoStrokes, chooseStrokes, endGesture } = store.getState()
    if (gesture) endGesture()
    else if (shiftKey && alsoStrokes.size > 0) chooseStrokes([...alsoStrokes])
  }
  const onPointerCancel = () => {
    if (!last.current) return
    last.current = null
    store.getState().cancelGesture()
  }
  return { onPointerDown, onPointerMove, onPointerUp, onPointerCancel }
}
