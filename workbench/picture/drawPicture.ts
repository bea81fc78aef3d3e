import type { TrackerInput } from '../../core/motion/input'
import { showDifference, wipedPart, type Compare } from '../../core/view/compare'
import { isPlain, type ViewTransform } from '../../core/view/viewTransform'
import { applyViewTransform } from '../viewing/applyViewTransform'
import type { ClipPictures } from '../viewing/clipPictures'
import { SURROUNDS, type Surround } from '../viewing/lookChoice'
import type { BenchPlate, MapView } from '../store/benchState'
import type { FrameState } from '../preview/frameState'
import type { ShownPatch } from '../preview/mendedPieces'
import type { Rect, Size } from '../../core/image/rect'
import { drawPlate } from './drawPlate'
import { drawSeenMap, drawShares } from './seenMap'
import { trackerView } from './trackerView'
import { besidePx, PIXEL_GRID_FROM, type PanelSize, type View } from './view'

type Drawn = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D

export interface PictureDrawing {
  readonly panel: PanelSize
  readonly view: View
  readonly plate: BenchPlate
  readonly pixels: Pick<FrameState, 'plate' | 'mended'>
  /** The plate of the frame that this one is compared with. */
  readonly neighbour: ImageBitmap | null
  readonly frame: number
  readonly isPlateShown: boolean
  readonly compare: Compare
  /** What lies over the plate in the picture that the result is compared with: nothing where that is the plate. */
  readonly other: readonly ShownPatch[]
  /** A flip shows the other picture just now. */
  readonly isFlipped: boolean
  readonly seenBy: TrackerInput | null
  readonly mapView: MapView
  readonly viewTransform: ViewTransform
  readonly clipPictures: Pick<ClipPictures, 'mean' | 'spread'>
  /** Around the picture; left out: the dim one. */
  readonly surround?: Surround
}

/** The frame that a frame is compared with. */
export const neighbourOf = (frame: number, { lastFrame }: BenchPlate): number =>
  frame < lastFrame ? frame + 1 : frame - 1

/**
 * Draws a frame on the canvas. At 100 % picture pixels fall on canvas pixels one to one; enlarged,
 * pixels stay square; reduced, they are averaged.
 * @param part  Of the panel: all else stays as it was drawn; null: all of it is drawn.
 */
export function drawPicture(
  canvas: HTMLCanvasElement,
  drawing: PictureDrawing,
  part: Rect | null = null,
): void {
  const { panel } = drawing
  if (canvas.width !== panel.width || canvas.height !== panel.height) {
    canvas.width = panel.width
    canvas.height = panel.height
  }
  const context = canvas.getContext('2d', { alpha: false })!
  if (!part) return drawAll(context, drawing)
  context.save()
  context.beginPath()
  context.rect(part.col, part.row, part.width, part.height)
  context.clip()
  drawAll(context, drawing)
  context.restore()
}

function drawAll(context: CanvasRenderingContext2D, drawing: PictureDrawing): void {
  const { panel, view, plate, pixels, neighbour, viewTransform } = drawing
  context.fillStyle = SURROUNDS[drawing.surround ?? 'dim']
  context.fillRect(0, 0, panel.width, panel.height)
  const picture = pixels.plate
  if (!picture || view.scale <= 0) return
  context.imageSmoothingEnabled = view.scale < 1
  context.imageSmoothingQuality = 'high'
  const { scale, left, top } = view
  const inPlace = (draw: () => void, byPx = 0) => {
    context.setTransform(scale, 0, 0, scale, left + byPx, top)
    draw()
    context.setTransform(1, 0, 0, 1, 0, 0)
  }
  if (drawing.compare.mode === 'beside') drawBeside(context, picture, drawing, inPlace)
  else inPlace(() => drawFrame(context, picture, drawing))
  if (!isPlain(viewTransform)) {
    applyViewTransform(context, panel, view, plate, viewTransform, () => {
      if (neighbour) inPlace(() => drawPlate(context, neighbour, plate))
      return neighbour !== null
    })
  }
  if (scale >= PIXEL_GRID_FROM) drawGrid(context, panel, view, plate)
}

/** What a canvas that has been drawn says of itself: the frame, how it is looked at, and whether that is how it should look. */
export function labelPicture(
  canvas: HTMLCanvasElement,
  { at, frame, isPlateShown, look }: { readonly at: FrameState; readonly frame: number; readonly isPlateShown: boolean; readonly look: string }, // prettier-ignore
): void {
  const hasPlate = at.plate !== null
  canvas.dataset['frame'] = hasPlate ? String(frame) : ''
  canvas.dataset['look'] = look
  canvas.dataset['stage'] = at.stage
  canvas.dataset['ready'] = String(hasPlate && at.stage === 'full' && !isPlateShown)
}

/** Each half of the panel shows the same part of the picture. */
function drawBeside(
  context: CanvasRenderingContext2D,
  picture: ImageBitmap,
  drawing: PictureDrawing,
  inPlace: (draw: () => void, byPx: number) => void,
): void {
  const { width, height } = drawing.panel
  for (const isFlipped of [true, false]) {
    context.save()
    context.beginPath()
    context.rect(isFlipped ? 0 : width / 2, 0, width / 2, height)
    context.clip()
    const half = { ...drawing, isFlipped }
    inPlace(() => drawFrame(context, picture, half), besidePx(width, isFlipped ? 0 : width))
    context.restore()
  }
}

function drawFrame(context: CanvasRenderingContext2D, picture: ImageBitmap, drawing: PictureDrawing): void {
  const { pixels, frame, plate, isPlateShown, isFlipped, compare, other, seenBy, mapView, viewTransform, clipPictures } = drawing // prettier-ignore
  const ofClip =
    viewTransform.aid === 'mean' || viewTransform.aid === 'spread' ? clipPictures[viewTransform.aid] : null
  drawPlate(context, seenBy ? trackerView(picture, frame, seenBy) : (ofClip ?? picture), plate)
  if (isPlateShown || seenBy || ofClip) return
  if (isFlipped) return drawPatches(context, other)
  // While new pieces are computed the last ones stay: a flash of the plate would say nothing.
  const patches = pixels.mended?.patches ?? []
  drawPatches(context, patches)
  if (compare.mode === 'difference') drawDifference(context, picture, { plate, patches, other, compare })
  else if (compare.mode === 'wipe') drawWiped(context, picture, { plate, patches, other, compare })
  else if (compare.mode === 'matte') drawMatte(context, plate, patches, compare.matteAs === 'over')
  const maps = pixels.mended?.seenMaps ?? []
  if (compare.mode === 'seen')
    maps.filter(({ isMatte }) => !isMatte).forEach((map) => drawSeenMap(context, map, false)) // prettier-ignore
  else if (mapView !== 'off') for (const map of maps) drawSeenMap(context, map, mapView === 'over')
}

export function drawPatches(context: Drawn, patches: readonly ShownPatch[]): void {
  for (const patch of patches) drawPatch(context, patch)
}

/** The other picture to the left of the line. */
function drawWiped(
  context: CanvasRenderingContext2D,
  picture: ImageBitmap,
  { plate, other, compare }: Compared,
): void {
  const corners = wipedPart(plate, compare)
  context.save()
  context.beginPath()
  for (let i = 0; i < corners.length; i += 2) context.lineTo(corners[i]!, corners[i + 1]!)
  context.clip()
  drawPlate(context, picture, plate)
  drawPatches(context, other)
  context.restore()
}

interface Compared {
  readonly plate: Size
  readonly patches: readonly ShownPatch[]
  readonly other: readonly ShownPatch[]
  readonly compare: Compare
}

function drawDifference(
  context: CanvasRenderingContext2D,
  picture: ImageBitmap,
  { plate, patches, other, compare }: Compared,
): void {
  context.fillStyle = compare.sign === 'signed' ? '#808080' : '#000'
  context.fillRect(0, 0, plate.width, plate.height)
  for (const { bitmap, col, row } of [...patches, ...other]) {
    const { width, height } = bitmap
    const canvas = new OffscreenCanvas(width, height)
    const piece = canvas.getContext('2d', { willReadFrequently: true })!
    const seen = (laid: readonly ShownPatch[]) => {
      piece.setTransform(1, 0, 0, 1, -col, -row)
      drawPlate(piece, picture, plate)
      drawPatches(piece, laid)
      return piece.getImageData(0, 0, width, height)
    }
    const result = seen(patches)
    showDifference(result, seen(other), compare)
    piece.putImageData(result, 0, 0)
    context.drawImage(canvas, col, row)
  }
}

/** How far mends cover each pixel. @param isOver  It tints the picture instead of hiding it. */
function drawMatte(
  context: CanvasRenderingContext2D,
  plate: Size,
  patches: readonly ShownPatch[],
  isOver: boolean,
): void {
  if (!isOver) {
    context.fillStyle = '#000'
    context.fillRect(0, 0, plate.width, plate.height)
  }
  for (const { covered, bitmap, col, row } of patches)
    if (covered) drawShares(context, { col, row, width: bitmap.width, height: bitmap.height }, covered, isOver) // prettier-ignore
}

const CHECK_PX = 8

/** A mended piece; where it has holes two greys show that there is nothing behind. */
export function drawPatch(context: Drawn, { bitmap, col, row, hasHoles }: ShownPatch): void {
  if (hasHoles) {
    context.fillStyle = '#4a4a4a'
    context.fillRect(col, row, bitmap.width, bitmap.height)
    context.fillStyle = '#5c5c5c'
    for (let y = 0; y < bitmap.height; y += CHECK_PX) {
      for (let x = (Math.floor(y / CHECK_PX) % 2) * CHECK_PX; x < bitmap.width; x += 2 * CHECK_PX) {
        context.fillRect(
          col + x,
          row + y,
          Math.min(CHECK_PX, bitmap.width - x),
          Math.min(CHECK_PX, bitmap.height - y),
        )
      }
    }
  }
  context.drawImage(bitmap, col, row)
}

function drawGrid(
  context: CanvasRenderingContext2D,
  panel: PanelSize,
  { scale, left, top }: View,
  picture: PanelSize,
): void {
  context.strokeStyle = 'rgba(128, 128, 128, 0.35)'
  context.lineWidth = 1
  context.beginPath()
  const [firstCol, lastCol] = [
    Math.max(0, Math.ceil(-left / scale)),
    Math.min(picture.width, Math.floor((panel.width - left) / scale)),
  ]
  const [firstRow, lastRow] = [
    Math.max(0, Math.ceil(-top / scale)),
    Math.min(picture.height, Math.floor((panel.height - top) / scale)),
  ]
  for (let col = firstCol; col <= lastCol; col++) {
    const x = Math.round(left + col * scale) + 0.5
    context.moveTo(x, Math.max(0, top))
    context.lineTo(x, Math.min(panel.height, top + picture.height * scale))
  }
  for (let row = firstRow; row <= lastRow; row++) {
    const y = Math.round(top + row * scale) + 0.5
    context.moveTo(Math.max(0, left), y)
    context.lineTo(Math.min(panel.width, left + picture.width * scale), y)
  }
  context.stroke()
}
