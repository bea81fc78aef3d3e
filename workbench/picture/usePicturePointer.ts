/** The pointer over the picture: it draws, moves the picture, chooses nothing by a click beside everything. */
import { useCallback, useRef, useState, type PointerEvent } from 'react'
import type { Place } from '../../core/geometry/transform'
import { useBench, useBenchParts } from '../BenchContext'
import { isStroke } from '../tools/tool'
import { useSendToTool } from '../tools/useSendToTool'
import { panBy, toPicture } from './view'

/** Below this a hand has slipped, and nothing was dragged. */
const SLIP_PX = 4

interface Pan {
  readonly x: number
  readonly y: number
  readonly hasMoved: boolean
}

export function usePicturePointer() {
  const { store, view, setView } = useBenchParts()
  const tool = useBench((bench) => bench.tool)
  const send = useSendToTool()
  const [pointer, setPointer] = useState<Place | null>(null)
  const pan = useRef<Pan | null>(null)
  const isDrawing = tool.kind === 'draw'
  const pxPerScreenPx = 1 / Math.max(view.scale, 1e-6)
  const placeOf = useCallback(
    ({ currentTarget, clientX, clientY }: PointerEvent) => {
      const box = currentTarget.getBoundingClientRect()
      return toPicture(view, clientX - box.left, clientY - box.top)
    },
    [view],
  )

  const onPointerDown = (event: PointerEvent) => {
    if (event.button > 1 || (!isDrawing && (event.target as Element).closest('[data-handle]'))) return
    event.currentTarget.setPointerCapture(event.pointerId)
    pan.current = { x: event.clientX, y: event.clientY, hasMoved: false }
    if (isDrawing && event.button === 0) send({ kind: 'press', at: placeOf(event), pxPerScreenPx })
  }
  const onPointerMove = (event: PointerEvent) => {
    const at = placeOf(event)
    setPointer(at)
    if (isDrawing) send({ kind: 'move', at })
    const begun = pan.current
    // A stroke is drawn by dragging; the other button still moves the picture.
    if (!begun || (isDrawing && isStroke(tool.shape) && event.buttons === 1)) return
    const [dx, dy] = [event.clientX - begun.x, event.clientY - begun.y]
    if (!begun.hasMoved && Math.abs(dx) + Math.abs(dy) < SLIP_PX) return
    pan.current = { x: event.clientX, y: event.clientY, hasMoved: true }
    setView((now) => panBy(now, dx, dy))
  }
  const onPointerUp = (event: PointerEvent) => {
    const begun = pan.current
    pan.current = null
    if (!begun || begun.hasMoved || event.button !== 0) return
    if (isDrawing) send({ kind: 'release', at: placeOf(event), pxPerScreenPx })
    else store.getState().select(null)
  }
  const onPointerLeave = () => setPointer(null)
  return { pointer, handlers: { onPointerDown, onPointerMove, onPointerUp, onPointerLeave } }
}
