/** The picture's canvas, drawn again whenever something of what it shows has changed. */
import { useLookChoice } from '../viewing/lookChoice'
import { useEffect, useLayoutEffect, useRef, type RefObject } from 'react'
import { useBench, useBenchParts } from '../BenchContext'
import { useOtherFrame } from '../compare/useOtherSide'
import type { ShownPatch } from '../preview/mendedPieces'
import { isPlain } from '../../core/view/viewTransform'
import { useFlip } from '../compare/useFlip'
import { usePlatePicture, useShownFrame } from '../preview/useFrameState'
import { changedPart } from './changedPart'
import { drawPicture, labelPicture, neighbourOf, type PictureDrawing } from './drawPicture'
import type { PanelSize } from './view'

const NOTHING: readonly ShownPatch[] = []

/** What lies over it may copy from it. */
export const PICTURE_CANVAS_ID = 'picture-canvas'

export function usePictureCanvas(size: PanelSize): RefObject<HTMLCanvasElement | null> {
  const { clipPictures, view } = useBenchParts()
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
  const drawn = useRef<PictureDrawing | null>(null)
  // How far work is changes many times while the pixels stay what they are.
  const { plate: picture, mended } = at
  const neighbour = usePlatePicture(isPlain(viewTransform) ? null : neighbourOf(frame, plate))
  useLayoutEffect(() => {
    if (!canvas.current || size.width === 0) return
    const drawing = {
      panel: size,
      view,
      plate,
      pixels: { plate: picture, mended },
      neighbour,
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
    }
    const part = changedPart(drawn.current, drawing)
    drawn.current = drawing
    if (part?.width !== 0) drawPicture(canvas.current, drawing, part)
  }, [
    clipPictures,
    surround,
    compare,
    frame,
    isFlipped,
    isPlateShown,
    mapView,
    mended,
    neighbour,
    other,
    picture,
    plate,
    seenBy,
    size,
    view,
    viewTransform,
  ])
  useLayoutEffect(() => {
    if (canvas.current && size.width > 0)
      labelPicture(canvas.current, { at, frame, isPlateShown, look: viewTransform.aid })
  }, [at, frame, isPlateShown, size.width, viewTransform.aid])

  const { areKnown, load } = clipPictures
  useEffect(() => {
    if (!areKnown && (viewTransform.aid === 'mean' || viewTransform.aid === 'spread')) load()
  }, [areKnown, load, viewTransform.aid])
  return canvas
}
