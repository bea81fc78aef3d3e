/** Loupes: pinned magnifiers on the ends of the selected path, plate on the left, mended on the right. */
import { useLayoutEffect, useRef } from 'react'
import { geometryAt, middleOf } from '../../core/document/keyedGeometry'
import { trackValuesAt } from '../../core/document/tracks'
import { useBench } from '../BenchContext'
import { useShownFrame } from '../preview/useFrameState'
import { drawPatch } from '../picture/drawPicture'
import { drawPlate } from '../picture/drawPlate'
import { selectedArea, type BenchState } from '../store/benchState'

const SIDE_PX = 138
const HEIGHT_PX = 104
const MAGNIFY = 6

export function Loupes() {
  const area = useBench(selectedArea)
  const tracks = useBench((bench) => bench.tracks)
  const trackId = useBench((bench) => bench.trackId)
  const frame = useBench((bench) => bench.frame)
  const places = [
    ...placesOfArea(area, tracks, frame),
    ...placesOfTrack(trackId === null ? undefined : tracks.get(trackId), frame),
  ]
  return (
    <aside aria-label="Loupes" className="w-38 shrink-0 overflow-y-auto border-l border-line bg-panel p-1.5">
      {places.map(({ name, at }) => (
        <Loupe key={name} name={name} at={at} />
      ))}
      <p className="px-1 py-1 text-xs text-soft">
        {places.length > 0
          ? 'Left: plate. Right: mended.'
          : 'Select a mend: its ends are shown here, magnified.'}
      </p>
    </aside>
  )
}

interface Pinned {
  readonly name: string
  readonly at: { readonly x: number; readonly y: number }
}

/** The places of an area that matter: both ends and the middle of a path, the middle and rim of a spot. */
function placesOfArea(
  area: ReturnType<typeof selectedArea>,
  tracks: BenchState['tracks'],
  frame: number,
): Pinned[] {
  if (!area || area.shape === 'matte') return []
  const geometry = geometryAt(area, tracks, frame)
  if (geometry.shape !== 'path') return [{ name: 'Middle', at: middleOf(geometry) }]
  const { points } = geometry
  const half = points[Math.floor(points.length / 2)]!
  const middle =
    points.length > 2 ? half : { x: (points[0]!.x + points[1]!.x) / 2, y: (points[0]!.y + points[1]!.y) / 2 }
  return [
    { name: 'End 1', at: points[0]! },
    { name: 'Middle', at: middle },
    { name: 'End 2', at: points.at(-1)! },
  ]
}

function placesOfTrack(track: Parameters<typeof trackValuesAt>[0] | undefined, frame: number): Pinned[] {
  const values =
    track && (track.kind === 'point' || track.kind === 'pair') ? trackValuesAt(track, frame) : null
  if (!track || !values) return []
  return Array.from({ length: values.length / 2 }, (_, i) => ({
    name: values.length > 2 ? `Track ${i + 1}` : 'Track',
    at: { x: values[2 * i]!, y: values[2 * i + 1]! },
  }))
}

function Loupe({ name, at }: { name: string; at: { readonly x: number; readonly y: number } }) {
  const { plate: picture, mended } = useShownFrame()
  const plate = useBench((bench) => bench.plate)
  const canvas = useRef<HTMLCanvasElement>(null)
  // An end outside the picture shows the nearest place inside.
  const [x, y] = [Math.min(Math.max(at.x, 0), plate.width), Math.min(Math.max(at.y, 0), plate.height)]
  useLayoutEffect(() => {
    const context = canvas.current?.getContext('2d', { alpha: false })
    if (!context) return
    context.fillStyle = '#3a3a3a'
    context.fillRect(0, 0, SIDE_PX, HEIGHT_PX)
    if (!picture) return
    context.imageSmoothingEnabled = false
    for (const half of [0, 1]) {
      context.save()
      context.beginPath()
      context.rect(half * (SIDE_PX / 2), 0, SIDE_PX / 2, HEIGHT_PX)
      context.clip()
      context.translate(half * (SIDE_PX / 2) + SIDE_PX / 4, HEIGHT_PX / 2)
      context.scale(MAGNIFY, MAGNIFY)
      context.translate(-x, -y)
      drawPlate(context, picture, plate)
      if (half === 1) for (const patch of mended?.patches ?? []) drawPatch(context, patch)
      context.restore()
    }
    context.fillStyle = '#000'
    context.fillRect(SIDE_PX / 2 - 1, 0, 2, HEIGHT_PX)
  }, [mended, picture, plate, x, y])
  return (
    <figure className="mb-1.5">
      <canvas
        ref={canvas}
        width={SIDE_PX}
        height={HEIGHT_PX}
        className="block rounded-sm"
        role="img"
        aria-label={`${name}: plate and mended, ${MAGNIFY} times enlarged`}
      />
      <figcaption className="flex justify-between px-1 pt-0.5 text-xs">
        <span>{name}</span> <span className="font-mono text-soft">{MAGNIFY}×</span>
      </figcaption>
    </figure>
  )
}
