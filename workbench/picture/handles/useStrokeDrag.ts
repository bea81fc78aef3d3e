/** A stroke dragged by its line; the others that are chosen go along. Clicked with Shift it is no longer one of them. */
import { useRef, type PointerEvent } from 'react'
import { shiftStrokes } from '../../../core/document/strokeCommands'
import { useBenchParts } from '../../BenchContext'
import { SLIP_PX } from '../view'

export function useStrokeDrag(mendId: string, areaId: string) {
  const { store, view } = useBenchParts()
  const last = useRef<{ readonly x: number; readonly y: number; readonly hasMoved: boolean } | null>(null)
  const onPointerDown = (event: PointerEvent<SVGPathElement>) => {
    if (event.button !== 0) return
    event.stopPropagation()
    event.currentTarget.setPointerCapture(event.pointerId)
    last.current = { x: event.clientX, y: event.clientY, hasMoved: false }
  }
  const onPointerMove = (event: PointerEvent<SVGPathElement>) => {
    if (!last.current) return
    const [dx, dy] = [event.clientX - last.current.x, event.clientY - last.current.y]
    if (!last.current.hasMoved && Math.abs(dx) + Math.abs(dy) < SLIP_PX) return
    last.current = { x: event.clientX, y: event.clientY, hasMoved: true }
    const { records, tracks, frame, alsoStrokes, preview } = store.getState()
    const mend = records.get(mendId)
    const by = { dx: dx / view.scale, dy: dy / view.scale }
    if (mend) preview(shiftStrokes(mend, new Set([areaId, ...alsoStrokes]), by, { tracks, frame }))
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
