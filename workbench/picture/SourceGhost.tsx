/** Inside the tip, faintly, what a clone would lay down there: taken from the picture as it is shown. */
import { useLayoutEffect, useRef } from 'react'
import type { Place } from '../../core/geometry/transform'
import { useBench, useBenchParts } from '../BenchContext'
import { PICTURE_CANVAS_ID } from './usePictureCanvas'
import { toScreen } from './view'

const OPACITY = 0.75

/** @param shift  From the tip to what it takes, px of the picture. @param radius  Of the tip, px of the screen. */
export function SourceGhost({ at, shift, radius }: { at: Place; shift: Place; radius: number }) {
  const { view } = useBenchParts()
  const turnDeg = useBench((bench) => bench.brush.turnDeg)
  const scale = useBench((bench) => bench.brush.scale)
  const canvas = useRef<HTMLCanvasElement>(null)
  const { xScreen, yScreen } = toScreen(view, at.x, at.y)
  const from = toScreen(view, at.x + shift.x, at.y + shift.y)
  const side = Math.max(2, Math.ceil(2 * radius))
  useLayoutEffect(() => {
    const [to, picture] = [canvas.current?.getContext('2d'), document.getElementById(PICTURE_CANVAS_ID)]
    if (!to || !(picture instanceof HTMLCanvasElement)) return
    to.reset()
    to.beginPath()
    to.arc(side / 2, side / 2, radius, 0, 2 * Math.PI)
    to.clip()
    to.translate(side / 2, side / 2)
    to.rotate((-turnDeg * Math.PI) / 180)
    to.scale(1 / scale, 1 / scale)
    // The canvas may hold more samples than the screen has px.
    const density = picture.width / Math.max(1, picture.clientWidth)
    to.scale(1 / density, 1 / density)
    to.drawImage(picture, -from.xScreen * density, -from.yScreen * density)
  })
  return (
    <foreignObject
      x={xScreen - side / 2}
      y={yScreen - side / 2}
      width={side}
      height={side}
      opacity={OPACITY}
      className="pointer-events-none"
    >
      <canvas ref={canvas} width={side} height={side} data-testid="source-ghost" />
    </foreignObject>
  )
}
