/** The picture: the canvas with plate and mended pieces, the overlay above it, zoom and pan. */
import {
  useCallback,
  useEffect,
  useEffectEvent,
  useLayoutEffect,
  useRef,
  useState,
  type ComponentType,
  type RefObject,
} from 'react'
import { useBench, useBenchParts } from '../BenchContext'
import { halvesShown } from '../store/benchState'
import { hintOf } from '../tools/tool'
import { CompareMarks } from '../compare/CompareMarks'
import { Scopes } from '../scopes/Scopes'
import { CrossHairMarks } from './CrossHairMarks'
import { Magnifier } from './Magnifier'
import { PointerReadout } from './PointerReadout'
import { StageChip } from './StageChip'
import { usePictureAlone } from './usePictureAlone'
import { useCrossHair } from './useCrossHair'
import { PICTURE_CANVAS_ID, usePictureCanvas } from './usePictureCanvas'
import { usePicturePointer } from './usePicturePointer'
import { besidePx, fitView, toPicture, zoomAbout, type PanelSize } from './view'

const WHEEL_RATE = 0.0016

export interface OverlayProps {
  readonly width: number
  readonly height: number
}

/** @param Overlay  What the stage shows over the picture. */
export function Picture({ Overlay }: { Overlay: ComponentType<OverlayProps> }) {
  const { view } = useBenchParts()
  const panel = useRef<HTMLDivElement>(null)
  const size = usePanelSize(panel)
  const canvas = usePictureCanvas(size)
  const { pointer, handlers } = usePicturePointer()
  const crossHair = useCrossHair(
    useCallback(() => toPicture(view, size.width / 2, size.height / 2), [size, view]),
  )
  useWheelZoom(panel)
  const areOverlaysHidden = useBench((bench) => bench.areOverlaysHidden)
  const isBeside = useBench(halvesShown) === 2
  const isAlone = useBench((bench) => bench.isPictureAlone)
  usePictureAlone(panel)
  const toolKind = useBench((bench) => bench.tool.kind)
  const isDrawing = toolKind !== 'idle'
  const place = crossHair.at ?? pointer
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
      className={`${isAlone ? 'fixed inset-0 z-40' : 'relative min-h-0 flex-1'} touch-none overflow-hidden bg-[#3a3a3a] ${toolKind === 'brush' ? 'cursor-none' : isDrawing ? 'cursor-crosshair' : 'cursor-default'}`}
      {...handlers}
      onPointerMove={(event) => {
        crossHair.leave()
        handlers.onPointerMove(event)
      }}
      onKeyDown={crossHair.onKeyDown}
    >
      <canvas ref={canvas} id={PICTURE_CANVAS_ID} className="absolute inset-0" data-testid="picture-canvas" />
      {!areOverlaysHidden && !isBeside && !isAlone && size.width > 0 && (
        <Overlay width={size.width} height={size.height} />
      )}
      {size.width > 0 && <CompareMarks width={size.width} height={size.height} />}
      {crossHair.at && <CrossHairMarks at={crossHair.at} panel={size} />}
      {toolKind === 'draw' && place && !areOverlaysHidden && <Magnifier at={place} panel={size} />}
      {!isAlone && (
        <>
          <Hint />
          <StageChip />
          <PointerReadout pointer={place} />
          <Scopes panel={size} />
        </>
      )}
    </div>
  )
}

/** Follows the panel's size; a fitted picture stays fitted. The first thing in it that keys reach. */
function usePanelSize(panel: RefObject<HTMLDivElement | null>): PanelSize {
  const { setView } = useBenchParts()
  const plate = useBench((bench) => bench.plate)
  const halves = useBench(halvesShown)
  const [size, setSize] = useState<PanelSize>({ width: 0, height: 0 })
  useLayoutEffect(() => {
    const element = panel.current!
    const observer = new ResizeObserver(() =>
      setSize({ width: element.clientWidth, height: element.clientHeight }),
    )
    observer.observe(element)
    if (document.activeElement === document.body) element.focus({ preventScroll: true })
    return () => observer.disconnect()
  }, [panel])
  // Only when the panel or what it shares changes: where the view rides on a track it moves with every frame, fitted or not.
  const refit = useEffectEvent(() => {
    // A link may have brought a zoom of its own.
    setView((now) => (now.scale > 0 && !now.isFit ? now : fitView(plate, size, halves)))
  })
  useLayoutEffect(() => {
    if (size.width > 0) refit()
  }, [halves, size])
  return size
}

/** React listens to wheels passively; zooming must keep the page still. */
function useWheelZoom(panel: RefObject<HTMLDivElement | null>): void {
  const { setView, store } = useBenchParts()
  useEffect(() => {
    const element = panel.current!
    const onWheel = (event: WheelEvent) => {
      event.preventDefault()
      // Jog: a frame a notch, either way the wheel is turned with Shift.
      if (event.shiftKey) {
        const { frame, goTo } = store.getState()
        return goTo(frame + Math.sign(event.deltaY || event.deltaX))
      }
      const box = element.getBoundingClientRect()
      const factor = Math.exp(-event.deltaY * WHEEL_RATE * (event.deltaMode === 1 ? 20 : 1))
      const x = event.clientX - box.left
      const inView = halvesShown(store.getState()) === 2 ? x - besidePx(box.width, x) : x
      setView((now) => zoomAbout(now, now.scale * factor, inView, event.clientY - box.top))
    }
    element.addEventListener('wheel', onWheel, { passive: false })
    return () => element.removeEventListener('wheel', onWheel)
  }, [panel, setView, store])
}

/** What to do next, over the picture. */
function Hint() {
  const { clipPictures } = useBenchParts()
  const tool = useBench((bench) => bench.tool)
  const aid = useBench((bench) => bench.viewTransform.aid)
  const lacksClip = (aid === 'mean' || aid === 'spread') && clipPictures.areKnown && !clipPictures[aid]
  const hint = lacksClip ? 'This picture is made by a scan: Survey, Scan.' : hintOf(tool)
  return hint ? (
    <p
      role="status"
      className="absolute top-3 left-1/2 -translate-x-1/2 rounded-sm bg-panel/90 px-3 py-1.5 text-ink"
    >
      {hint}
    </p>
  ) : null
}
