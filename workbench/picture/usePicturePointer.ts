/** The pointer over the picture: it draws, moves the picture, chooses nothing by a click beside everything. */
import { useCallback, useRef, useState, type PointerEvent } from 'react'
import type { Place } from '../../core/geometry/transform'
import { useBench, useBenchParts } from '../BenchContext'
import { halvesShown } from '../store/benchState'
import { isDragged, type PenState } from '../tools/tool'
import { useSendToTool } from '../tools/useSendToTool'
import { besidePx, panBy, SLIP_PX, toPicture } from './view'

/** The other end of a tablet's pen, and the button that moves the picture while something is drawn. Source: W3C Pointer Events, 4.1.1 chorded buttons. */
const ERASER_BUTTON = 5
const MIDDLE = 4

/** A mouse has no pressure to speak of, and does not lean. */
const penOf = (event: PointerEvent, pen: globalThis.PointerEvent = event.nativeEvent): PenState => ({
  pressure: pen.pointerType === 'mouse' ? 1 : pen.pressure,
  lean: pen.pointerType === 'mouse' ? 0 : leanOf(pen),
  isEraser: event.button === ERASER_BUTTON,
  ...(event.ctrlKey || event.metaKey ? { sets: event.shiftKey ? 'softness' : 'rim' } : {}),
})

/** 0 upright, 1 flat on the tablet. Source: W3C Pointer Events, Level 3: altitude; older browsers say both tilts alone. */
const leanOf = ({ altitudeAngle, tiltX, tiltY }: globalThis.PointerEvent): number => {
  const altitude = (altitudeAngle as number | undefined) ?? Math.PI / 2 - (Math.max(Math.abs(tiltX), Math.abs(tiltY)) * Math.PI) / 180 // prettier-ignore
  return Math.min(1, Math.max(0, 1 - altitude / (Math.PI / 2)))
}

interface Pan {
  readonly x: number
  readonly y: number
  readonly hasMoved: boolean
}

export function usePicturePointer() {
  const { store, view, setView } = useBenchParts()
  const tool = useBench((bench) => bench.tool)
  const isBeside = useBench(halvesShown) === 2
  const send = useSendToTool()
  const [pointer, setPointer] = useState<Place | null>(null)
  const pan = useRef<Pan | null>(null)
  const isPainting = tool.kind === 'brush'
  const isDrawing = tool.kind === 'draw' || isPainting
  const pxPerScreenPx = 1 / Math.max(view.scale, 1e-6)
  const placeOf = useCallback(
    ({ currentTarget, clientX, clientY }: PointerEvent) => {
      const box = currentTarget.getBoundingClientRect()
      const x = clientX - box.left
      return toPicture(view, isBeside ? x - besidePx(box.width, x) : x, clientY - box.top)
    },
    [isBeside, view],
  )
  /** Every place of a pen since the last event: browsers put those of one display frame together. */
  const placesOf = (event: PointerEvent) => {
    const all = event.nativeEvent.getCoalescedEvents?.() ?? []
    return (all.length > 0 ? all : [event.nativeEvent]).map((one) => ({
      at: placeOf({
        ...event,
        currentTarget: event.currentTarget,
        clientX: one.clientX,
        clientY: one.clientY,
      }),
      ...penOf(event, one),
    }))
  }

  const onPointerDown = (event: PointerEvent) => {
    const isPen = isPainting && event.button === ERASER_BUTTON
    if ((event.button > 1 && !isPen) || (!isDrawing && (event.target as Element).closest('[data-handle]')))
      return
    event.currentTarget.setPointerCapture(event.pointerId)
    pan.current = { x: event.clientX, y: event.clientY, hasMoved: false }
    if (isDrawing && (event.button === 0 || isPen))
      send({ kind: 'press', at: placeOf(event), pxPerScreenPx, ...penOf(event), isStraight: event.shiftKey })
  }
  const onPointerMove = (event: PointerEvent) => {
    const at = placeOf(event)
    setPointer(at)
    if (isPainting) for (const one of placesOf(event)) send({ kind: 'move', ...one })
    else if (isDrawing) send({ kind: 'move', at })
    const begun = pan.current
    // A stroke is drawn by dragging; the other button still moves the picture.
    const isDrag = isPainting || (tool.kind === 'draw' && isDragged(tool.shape))
    if (!begun || (isDrag && event.buttons !== MIDDLE)) return
    const [dx, dy] = [event.clientX - begun.x, event.clientY - begun.y]
    if (!begun.hasMoved && Math.abs(dx) + Math.abs(dy) < SLIP_PX) return
    pan.current = { x: event.clientX, y: event.clientY, hasMoved: true }
    setView((now) => panBy(now, dx, dy))
  }
  const onPointerUp = (event: PointerEvent) => {
    const begun = pan.current
    pan.current = null
    if (isPainting && begun && !begun.hasMoved) send({ kind: 'release', at: placeOf(event), pxPerScreenPx })
    if (isPainting || !begun || begun.hasMoved || event.button !== 0) return
    if (isDrawing) send({ kind: 'release', at: placeOf(event), pxPerScreenPx })
    else store.getState().select(null)
  }
  const onPointerLeave = () => {
    setPointer(null)
    if (isPainting) send({ kind: 'leave' })
  }
  // Taken by something else, such as a palm on the tablet: what was begun is no stroke.
  const onPointerCancel = () => {
    pan.current = null
    if (tool.kind === 'brush' && tool.points.length > 0) send({ kind: 'escape' })
  }
  return {
    pointer,
    handlers: { onPointerDown, onPointerMove, onPointerUp, onPointerLeave, onPointerCancel },
  }
}
