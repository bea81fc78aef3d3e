/** The picture: the canvas with plate and mended pieces, the overlay above it, zoom and pan. */
import { useCallback, useEffect, useLayoutEffect, useRef, useState, type ComponentType } from 'react'
import { useBench, useBenchParts } from '../BenchContext'
import { hintOf, isStroke } from '../tools/tool'
import { useSendToTool } from '../tools/useSendToTool'
import { drawPicture } from './drawPicture'
import { Magnifier } from './Magnifier'
import { fitView, toPicture, zoomAbout, panBy } from './view'

const WHEEL_RATE = 0.0016

export interface OverlayProps {
  readonly width: number
  readonly height: number
}

/** @param Overlay  What the stage shows over the picture. */
export function Picture({ Overlay }: { Overlay: ComponentType<OverlayProps> }) {
  const { store, cache, cacheVersion, clipPictures, view, setView } = useBenchParts()
  const panel = useRef<HTMLDivElement>(null)
  const canvas = useRef<HTMLCanvasElement>(null)
  const [size, setSize] = useState({ width: 0, height: 0 })
  const [pointer, setPointer] = useState<{ x: number; y: number } | null>(null)
  const plate = useBench((bench) => bench.plate)
  const frame = useBench((bench) => bench.frame)
  const isPlateShown = useBench((bench) => bench.isPlateShown)
  const areOverlaysHidden = useBench((bench) => bench.areOverlaysHidden)
  const isSeenMapShown = useBench((bench) => bench.isSeenMapShown)
  const viewTransform = useBench((bench) => bench.viewTransform)
  const tool = useBench((bench) => bench.tool)
  const seenBy = useBench((bench) =>
    bench.isTrackerViewShown && bench.trackId !== null
      ? (bench.tracks.get(bench.trackId)?.settings ?? null)
      : null,
  )
  const hasFitted = useRef(false)

  useLayoutEffect(() => {
    const element = panel.current!
    const observer = new ResizeObserver(() =>
      setSize({ width: element.clientWidth, height: element.clientHeight }),
    )
    observer.observe(element)
    return () => observer.disconnect()
  }, [])

  useEffect(() => {
    if (hasFitted.current || size.width === 0) return
    hasFitted.current = true
    // A link may have brought a zoom of its own.
    setView((now) => (now.scale > 0 ? now : fitView(plate, size)))
  }, [size, plate, setView])

  useLayoutEffect(() => {
    if (!canvas.current || !cache || size.width === 0) return
    drawPicture(canvas.current, {
      panel: size,
      view,
      plate,
      cache,
      frame,
      isPlateShown,
      seenBy,
      isSeenMapShown,
      viewTransform,
      clipPictures,
    })
  }, [
    cache,
    cacheVersion,
    clipPictures,
    frame,
    isPlateShown,
    isSeenMapShown,
    viewTransform,
    plate,
    seenBy,
    size,
    view,
  ])

  const { areKnown, load } = clipPictures
  useEffect(() => {
    if (!areKnown && (viewTransform.aid === 'mean' || viewTransform.aid === 'spread')) load()
  }, [areKnown, load, viewTransform.aid])

  // React listens to wheels passively; zooming must keep the page still.
  useEffect(() => {
    const element = panel.current!
    const onWheel = (event: WheelEvent) => {
      event.preventDefault()
      const box = element.getBoundingClientRect()
      const factor = Math.exp(-event.deltaY * WHEEL_RATE * (event.deltaMode === 1 ? 20 : 1))
      setView((now) => zoomAbout(now, now.scale * factor, event.clientX - box.left, event.clientY - box.top))
    }
    element.addEventListener('wheel', onWheel, { passive: false })
    return () => element.removeEventListener('wheel', onWheel)
  }, [setView])

  const placeOf = useCallback(
    (event: { clientX: number; clientY: number }) => {
      const box = panel.current!.getBoundingClientRect()
      return toPicture(view, event.clientX - box.left, event.clientY - box.top)
    },
    [view],
  )

  const pxPerScreenPx = 1 / Math.max(view.scale, 1e-6)
  const send = useSendToTool()
  const pan = useRef<{ x: number; y: number; hasMoved: boolean } | null>(null)
  const isDrawing = tool.kind === 'draw'
  const lacksClip =
    (viewTransform.aid === 'mean' || viewTransform.aid === 'spread') &&
    areKnown &&
    !clipPictures[viewTransform.aid]
  const hint = lacksClip ? 'This picture is made by a scan: Survey, Scan.' : hintOf(tool)
  return (
    <div
      ref={panel}
      data-testid="picture"
      data-scale={view.scale}
      data-left={view.left}
      data-top={view.top}
      role="application"
      aria-label="Picture"
      tabIndex={0}
      className={`relative min-h-0 flex-1 touch-none overflow-hidden bg-[#3a3a3a] ${isDrawing ? 'cursor-crosshair' : 'cursor-default'}`}
      onPointerDown={(event) => {
        if (event.button > 1 || (!isDrawing && (event.target as Element).closest('[data-handle]'))) return
        event.currentTarget.setPointerCapture(event.pointerId)
        pan.current = { x: event.clientX, y: event.clientY, hasMoved: false }
        if (isDrawing && event.button === 0) send({ kind: 'press', at: placeOf(event), pxPerScreenPx })
      }}
      onPointerMove={(event) => {
        const at = placeOf(event)
        setPointer(at)
        if (isDrawing) send({ kind: 'move', at })
        const begun = pan.current
        // A stroke is drawn by dragging; the other button still moves the picture.
        if (!begun || (isDrawing && isStroke(tool.shape) && event.buttons === 1)) return
        const [dx, dy] = [event.clientX - begun.x, event.clientY - begun.y]
        if (!begun.hasMoved && Math.abs(dx) + Math.abs(dy) < 4) return
        pan.current = { x: event.clientX, y: event.clientY, hasMoved: true }
        setView((now) => panBy(now, dx, dy))
      }}
      onPointerUp={(event) => {
        const begun = pan.current
        pan.current = null
        if (!begun || begun.hasMoved) return
        if (isDrawing && event.button === 0) send({ kind: 'release', at: placeOf(event), pxPerScreenPx })
        else if (event.button === 0) store.getState().select(null)
      }}
      onPointerLeave={() => setPointer(null)}
    >
      <canvas ref={canvas} className="absolute inset-0" data-testid="picture-canvas" />
      {!areOverlaysHidden && size.width > 0 && <Overlay width={size.width} height={size.height} />}
      {isDrawing && pointer && !areOverlaysHidden && <Magnifier at={pointer} panel={size} />}
      {hint && (
        <p
          role="status"
          className="absolute top-3 left-1/2 -translate-x-1/2 rounded-sm bg-panel/90 px-3 py-1.5 text-ink"
        >
          {hint}
        </p>
      )}
      <PointerReadout pointer={pointer} />
    </div>
  )
}

/** Where the pointer is, in picture px, and the plate's code values there, 0 to 255. The picture's own corner counts from 0. */
function PointerReadout({ pointer }: { pointer: { x: number; y: number } | null }) {
  const { cache } = useBenchParts()
  const plate = useBench((bench) => bench.plate)
  const frame = useBench((bench) => bench.frame)
  // A place that was worked out may miss a whole number by its last bit.
  const at = pointer && { x: thousandths(pointer.x), y: thousandths(pointer.y) }
  const isInside = at && at.x >= 0 && at.y >= 0 && at.x < plate.width && at.y < plate.height
  const codes = isInside ? codesAt(cache?.plateAt(frame) ?? null, Math.floor(at.x), Math.floor(at.y)) : null
  const words = isInside
    ? `${tenths(at.x)}, ${tenths(at.y)} px${codes ? ` · ${codes.join(' ')}` : ''}`
    : `${plate.width} × ${plate.height} px`
  return (
    <span
      className="absolute right-3 bottom-2 rounded-sm bg-panel/80 px-2 py-0.5 font-mono text-xs text-soft"
      data-testid="read-out"
      aria-hidden
    >
      {words}
    </span>
  )
}

const thousandths = (px: number): number => Math.round(px * 1000) / 1000

/** Cut, not rounded: the whole px before the point are those of the pixel that is read. */
const tenths = (px: number): string => (Math.floor(px * 10) / 10).toFixed(1)

/** One pixel to look into: made once. */
let probe: CanvasRenderingContext2D | null = null

function codesAt(picture: ImageBitmap | null, col: number, row: number): number[] | null {
  if (!picture) return null
  probe ??= Object.assign(document.createElement('canvas'), { width: 1, height: 1 }).getContext('2d', {
    willReadFrequently: true,
  })!
  probe.imageSmoothingEnabled = false
  probe.drawImage(picture, col, row, 1, 1, 0, 0, 1, 1)
  return [...probe.getImageData(0, 0, 1, 1).data.slice(0, 3)]
}
