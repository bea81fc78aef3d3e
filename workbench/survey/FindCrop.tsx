/** A find's own part of the plate, on the frame that is shown. */
import { useLayoutEffect, useRef } from 'react'
import { cropOf, type Find } from '../../core/survey/finds'
import { useBench } from '../BenchContext'
import { useShownFrame } from '../preview/useFrameState'

const SIDE_PX = 44

export function FindCrop({ find }: { find: Find }) {
  const plate = useBench((bench) => bench.plate)
  const { plate: picture } = useShownFrame()
  const canvas = useRef<HTMLCanvasElement>(null)
  useLayoutEffect(() => {
    const context = canvas.current?.getContext('2d', { alpha: false })
    if (!context) return
    if (!picture) return // what was there before stays
    const { col, row, width, height } = cropOf(find, plate)
    context.imageSmoothingEnabled = width > SIDE_PX
    const by = picture.width / plate.width // less than 1 of a proxy
    context.drawImage(picture, by * col, by * row, by * width, by * height, 0, 0, SIDE_PX, SIDE_PX)
  }, [find, picture, plate])
  return (
    <canvas
      ref={canvas}
      width={SIDE_PX}
      height={SIDE_PX}
      className="block rounded-xs bg-well"
      role="img"
      aria-label={`The plate at ${Math.round(find.x)}, ${Math.round(find.y)}`}
    />
  )
}
