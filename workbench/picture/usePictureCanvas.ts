/** The picture's canvas, drawn again whenever something of what it shows has changed. */
import { useLookChoice } from '../viewing/lookChoice'
import { useEffect, useLayoutEffect, useRef, type RefObject } from 'react'
import { useBench, useBenchParts } from '../BenchContext'
import { useOtherFrame } from '../compare/useOtherSide'
import type { ShownPatch } from '../preview/mendedPieces'
import { useFlip } from '../compare/useFlip'
import { useShownFrame } from '../preview/useFrameState'
import { drawPicture, neighbourOf } from './drawPicture'
import type { PanelSize } from './view'

const NOTHING: readonly ShownPatch[] = []

/** What lies over it may copy from it. */
export const PICTURE_CANVAS_ID = 'picture-canvas'

export function usePictureCanvas(size: PanelSize): RefObject<HTMLCanvasElement | null> {
  const { cache, clipPictures, view } = useBenchParts()
  const canvas = useRef<HTMLCanvasElement>(null)
  const at = useShownFrame()
  const plate = useBench((bench) => bench.plate)
  const frame = useBench((bench) => bench.frame)
  const isPlateShown = useBench((bench) => bench.isPlateShown)
  const mapView = useBench((bench) => bench.mapView)
  const viewTransform = useBench((bench) => bench.viewTransform)
  const compare = useBench((bench) => bench.compare)
  const isFlipped = useFlip()
  const other = useOtherFrame()?.patches ?? NOTHING
  const seenBy = useBench((bench) =>
    bench.isTrackerViewShown && bench.trackId !== null
      ? (bench.tracks.get(bench.trackId)?.settings ?? null)
      : null,
  )
  const surround = useLookChoice((look) => look.surround)
  useLayoutEffect(() => {
    if (!canvas.current || size.width === 0) return
    drawPicture(canvas.current, {
      panel: size,
      view,
      plate,
      at,
      neighbour: cache?.stateAt(neighbourOf(frame, plate)).plate ?? null,
      frame,
      isPlateShown,
      compare,
      other,
      isFlipped,
      seenBy,
      mapView,
      viewTransform,
      clipPictures,
      surround,
    })
  }, [
    at,
    cache,
    clipPictures,
    surround,
    compare,
    frame,
    isFlipped,
    isPlateShown,
    mapView,
    other,
    plate,
    seenBy,
    size,
    view,
    viewTransform,
  ])

  const { areKnown, load } = clipPictures
  useEffect(() => {
    if (!areKnown && (viewTransform.aid === 'mean' || viewTransform.aid === 'spread')) load()
  }, [areKnown, load, viewTransform.aid])
  return canvas
}
