/** Suggested places to copy from, as small pictures of what the mend comes to with each: the best first, chosen by arrows or a click. */
import { useEffect, useRef } from 'react'
import { RadioGroup } from 'radix-ui'
import type { Area } from '../../core/document/areas'
import type { MendRecord } from '../../core/document/mend'
import type { Shift } from '../../core/document/source'
import type { SmallPicture } from '../../core/evaluate/suggest/suggestedResults'
import { useBench } from '../BenchContext'
import { takenOf, useSuggest } from '../tracking/useSuggest'

export function SuggestedPlaces({ mend, area }: { mend: MendRecord; area: Area }) {
  const suggested = useBench((bench) =>
    bench.suggested?.mendId === mend.id && bench.suggested.area === area ? bench.suggested : null,
  )
  const tracks = useBench((bench) => bench.tracks)
  const { take } = useSuggest()
  if (!suggested) return null
  const { sources } = suggested
  const taken = takenOf(mend, suggested, tracks)
  return (
    <RadioGroup.Root
      aria-label="Suggested places, as the mend comes out: the best first"
      orientation="horizontal"
      className="flex gap-1.5 overflow-x-auto px-0.5 py-1.5"
      value={String(taken)}
      onValueChange={(index) => take(Number(index))}
    >
      {sources.map((source, index) => (
        <RadioGroup.Item
          key={`${source.dx} ${source.dy}`}
          value={String(index)}
          aria-label={`Place ${index + 1} of ${sources.length}, ${wordsOf(source)}`}
          title={`${wordsOf(source)}; its rim differs by ${(255 * source.difference).toFixed(1)} code values`}
          className="relative shrink-0 rounded-sm border-2 border-transparent data-[state=checked]:border-thread hover:border-line"
        >
          <Small picture={source.picture} />
          <span className="absolute bottom-0.5 left-0.5 rounded-xs bg-raised/80 px-1 font-mono text-xs">
            {index + 1}
          </span>
        </RadioGroup.Item>
      ))}
    </RadioGroup.Root>
  )
}

const ROW_PX = 68

function Small({ picture }: { picture: SmallPicture }) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const { width, height, data } = picture
  useEffect(() => {
    canvas.current?.getContext('2d')?.putImageData(new ImageData(data, width, height), 0, 0)
  }, [data, height, width])
  return (
    <canvas
      ref={canvas}
      width={width}
      height={height}
      aria-hidden
      style={{ height: ROW_PX, width: Math.min(2 * ROW_PX, Math.round((ROW_PX * width) / height)) }}
    />
  )
}

/** "150 px left, 4 px down, turned 3°". */
export function wordsOf({ dx, dy, turnDeg, scale }: Shift): string {
  const parts = [
    dx !== 0 && `${Math.abs(dx).toFixed(0)} px ${dx < 0 ? 'left' : 'right'}`,
    dy !== 0 && `${Math.abs(dy).toFixed(0)} px ${dy < 0 ? 'up' : 'down'}`,
    turnDeg !== 0 && `turned ${turnDeg.toFixed(1)}°`,
    scale !== 1 && `× ${scale.toFixed(2)}`,
  ].filter(Boolean)
  return parts.join(', ')
}
