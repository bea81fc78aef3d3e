/** Over the picture: how brightness is spread in a part of it, plate against result. */
import { useEffect, useRef } from 'react'
import type { Rect, Size } from '../../core/image/rect'
import { LUMA_STEPS, lumaHistogram, lumaWaveform } from '../../core/view/scopes'
import type { ScreenPicture } from '../../core/view/viewTransform'
import { useBench, useBenchParts } from '../BenchContext'
import { drawPlate } from '../picture/drawPlate'
import { drawPatches } from '../picture/drawPicture'
import type { PanelSize } from '../picture/view'
import type { FrameState } from '../preview/frameState'
import { useShownFrame } from '../preview/useFrameState'
import { useLookChoice } from '../viewing/lookChoice'
import { regionInView, regionOfMend } from './scopeRegion'

export function Scopes({ panel }: { panel: PanelSize }) {
  const region = useLookChoice((look) => look.scopes)
  return region === 'off' ? null : <ScopePanel panel={panel} isOfMend={region === 'mend'} />
}

const HEIGHT_PX = 84
const HISTOGRAM_PX = 128
const WAVEFORM_PX = 96
const COLOURS = { plate: [176, 176, 176], result: [86, 191, 169] } as const

function ScopePanel({ panel, isOfMend }: { panel: PanelSize; isOfMend: boolean }) {
  const { view } = useBenchParts()
  const at = useShownFrame()
  const plate = useBench((bench) => bench.plate)
  const selectedId = useBench((bench) => bench.selectedId)
  const canvas = useRef<HTMLCanvasElement>(null)
  const rect = isOfMend ? regionOfMend(at.mended, selectedId) : regionInView(view, panel, plate)
  const { col = 0, row = 0, width = 0, height = 0 } = rect ?? {}
  useEffect(() => {
    if (width === 0) return undefined
    // Once a picture of the screen, however fast it is zoomed or played.
    const due = requestAnimationFrame(() =>
      drawScopes(canvas.current!, at, plate, { col, row, width, height }),
    )
    return () => cancelAnimationFrame(due)
  }, [at, col, height, plate, row, width])
  return (
    <figure
      className="pointer-events-none absolute bottom-2 left-3 rounded-sm bg-panel/90 p-2 text-xs text-soft"
      aria-label="Spread of brightness"
      data-testid="scopes"
      data-region={`${col} ${row} ${width} ${height}`}
    >
      {width === 0 ? (
        <p className="w-56">
          {isOfMend ? 'Select a mend that lies on this frame.' : 'Nothing of the picture is in view.'}
        </p>
      ) : (
        <>
          <canvas ref={canvas} width={HISTOGRAM_PX + 8 + 2 * WAVEFORM_PX + 4} height={HEIGHT_PX} />
          <figcaption className="flex gap-3 pt-1">
            <span style={{ color: `rgb(${COLOURS.plate.join(' ')})` }}>Plate</span>
            <span style={{ color: `rgb(${COLOURS.result.join(' ')})` }}>Result</span>
            <span className="ml-auto font-mono">
              {width} × {height} px
            </span>
          </figcaption>
        </>
      )}
    </figure>
  )
}

function drawScopes(canvas: HTMLCanvasElement, { plate, mended }: FrameState, size: Size, rect: Rect): void {
  const context = canvas.getContext('2d')!
  context.clearRect(0, 0, canvas.width, canvas.height)
  if (!plate) return
  const piece = new OffscreenCanvas(rect.width, rect.height).getContext('2d', { willReadFrequently: true })!
  piece.setTransform(1, 0, 0, 1, -rect.col, -rect.row)
  drawPlate(piece, plate, size)
  const read = () => piece.getImageData(0, 0, rect.width, rect.height)
  const before = read()
  drawPatches(piece, mended?.patches ?? [])
  const after = read()
  drawHistogram(context, [before, after])
  for (const [i, picture] of [before, after].entries())
    drawWaveform(context, picture, HISTOGRAM_PX + 8 + i * (WAVEFORM_PX + 4), COLOURS[i === 0 ? 'plate' : 'result']) // prettier-ignore
}

/** Dark at the left; the plate as an area, the result as a line. The tallest of both reaches the top. */
function drawHistogram(context: CanvasRenderingContext2D, pictures: readonly ScreenPicture[]): void {
  // Two values a column: single ones stand out of pictures that were worked on in 8 bits.
  const [plate, result] = pictures.map((picture) => {
    const counts = lumaHistogram(picture)
    return Array.from({ length: HISTOGRAM_PX }, (_, i) => counts[2 * i]! + counts[2 * i + 1]!)
  })
  const most = Math.max(1, ...plate!, ...result!)
  const yOf = (count: number) => HEIGHT_PX * (1 - Math.sqrt(count / most))
  context.fillStyle = `rgb(${COLOURS.plate.join(' ')} / 0.45)`
  for (const [i, count] of plate!.entries()) context.fillRect(i, yOf(count), 1, HEIGHT_PX - yOf(count))
  context.strokeStyle = `rgb(${COLOURS.result.join(' ')})`
  context.beginPath()
  for (const [i, count] of result!.entries()) context.lineTo(i + 0.5, yOf(count))
  context.stroke()
}

/** Bright at the top, along the region's columns. */
function drawWaveform(
  context: CanvasRenderingContext2D,
  picture: ScreenPicture,
  left: number,
  [r, g, b]: readonly [number, number, number],
): void {
  const columns = Math.min(WAVEFORM_PX, picture.width)
  const counts = lumaWaveform(picture, columns)
  const usual = Math.max(1, (picture.height * picture.width) / (columns * 24))
  const image = new ImageData(WAVEFORM_PX, HEIGHT_PX)
  for (let x = 0; x < WAVEFORM_PX; x++) {
    const column = Math.floor((x * columns) / WAVEFORM_PX) * LUMA_STEPS
    for (let y = 0; y < HEIGHT_PX; y++) {
      const top = Math.floor(((HEIGHT_PX - y) * LUMA_STEPS) / HEIGHT_PX)
      let count = 0
      for (let luma = Math.floor(((HEIGHT_PX - 1 - y) * LUMA_STEPS) / HEIGHT_PX); luma < top; luma++)
        count += counts[column + luma]!
      image.data.set([r, g, b, 255 * Math.min(1, Math.sqrt(count / usual))], 4 * (y * WAVEFORM_PX + x))
    }
  }
  context.putImageData(image, left, 0)
}
