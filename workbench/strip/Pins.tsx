/** The pins of the selected area: select, move, copy, delete; a box selects several. */
import { useRef, useState } from 'react'
import { moveKeys, removeKeys } from '../../core/document/areaCommands'
import type { KeyedArea } from '../../core/document/areas'
import type { MendRecord } from '../../core/document/mend'
import { useBench, useBenchParts } from '../BenchContext'
import { pasteInto } from '../column/clipboard'

interface PinsProps {
  readonly mend: MendRecord
  readonly area: KeyedArea
  readonly firstFrame: number
  readonly count: number
}

export function Pins({ mend, area, firstFrame, count }: PinsProps) {
  const { store } = useBenchParts()
  const frame = useBench((bench) => bench.frame)
  const selection = useBench((bench) => bench.pins)
  const row = useRef<HTMLDivElement>(null)
  const hasMoved = useRef(false)
  const [drag, setDrag] = useState<{ fromX: number; by: number } | null>(null)
  const [box, setBox] = useState<{ from: number; to: number } | null>(null)
  const chosen = selection?.areaId === area.id ? selection.frames : []
  const { selectPins, goTo, commit, copyArea } = store.getState()
  const frameAt = (clientX: number) => {
    const bounds = row.current!.getBoundingClientRect()
    return firstFrame + ((clientX - bounds.left) / bounds.width) * count
  }
  const perFrame = () => row.current!.getBoundingClientRect().width / count
  const share = (at: number) => `${((at - firstFrame + 0.5) / count) * 100}%`

  const move = (frames: readonly number[], wanted: number) => {
    // As far as the span lets all of them go together.
    const by = Math.min(
      Math.max(wanted, mend.span.firstFrame - Math.min(...frames)),
      mend.span.lastFrame - Math.max(...frames),
    )
    if (by === 0) return
    commit(moveKeys(mend, area.id, frames, by))
    selectPins({ areaId: area.id, frames: frames.map((at) => at + by) })
  }
  const onKeyDown = (event: React.KeyboardEvent, at: number) => {
    const frames = chosen.includes(at) ? chosen : [at]
    if (event.key === 'Delete' || event.key === 'Backspace') {
      commit(removeKeys(mend, area.id, frames))
      selectPins(null)
    } else if (event.altKey && (event.key === 'ArrowLeft' || event.key === 'ArrowRight')) {
      move(frames, event.key === 'ArrowLeft' ? -1 : 1)
    } else if ((event.ctrlKey || event.metaKey) && event.key === 'c') {
      copyArea(area, frames)
    } else if ((event.ctrlKey || event.metaKey) && event.key === 'v') {
      pasteInto(store, mend, area.id)
    } else return
    event.preventDefault()
    event.stopPropagation()
  }
  return (
    <div
      ref={row}
      className="relative h-5 touch-none"
      data-testid="pins"
      onPointerDown={(event) => {
        if (event.target !== event.currentTarget) return
        event.currentTarget.setPointerCapture(event.pointerId)
        const at = frameAt(event.clientX)
        setBox({ from: at, to: at })
      }}
      onPointerMove={(event) => box && setBox({ ...box, to: frameAt(event.clientX) })}
      onPointerUp={() => {
        if (!box) return
        const [low, high] = [Math.min(box.from, box.to), Math.max(box.from, box.to)]
        const frames = area.keys.map((key) => key.frame).filter((at) => at + 0.5 >= low && at + 0.5 <= high)
        selectPins(frames.length > 0 ? { areaId: area.id, frames } : null)
        setBox(null)
      }}
    >
      {box && (
        <span
          aria-hidden
          className="absolute inset-y-0 border border-soft bg-soft/20"
          style={{
            left: `${((Math.min(box.from, box.to) - firstFrame) / count) * 100}%`,
            width: `${(Math.abs(box.to - box.from) / count) * 100}%`,
          }}
        />
      )}
      {area.keys.map((key) => {
        const isChosen = chosen.includes(key.frame)
        const shift = isChosen && drag ? drag.by * perFrame() : 0
        return (
          <button
            key={key.frame}
            type="button"
            data-testid="pin"
            aria-pressed={isChosen}
            aria-label={`Key at ${key.frame}. Delete removes it, Alt and arrows move it.`}
            className="absolute -top-0.5 h-5 w-4 -translate-x-1/2 touch-none"
            style={{ left: share(key.frame), marginLeft: shift }}
            onClick={(event) => {
              if (hasMoved.current) return // the end of a drag
              if (event.shiftKey || event.ctrlKey || event.metaKey) {
                const frames = isChosen ? chosen.filter((at) => at !== key.frame) : [...chosen, key.frame]
                selectPins({ areaId: area.id, frames })
                return
              }
              goTo(key.frame)
            }}
            onPointerDown={(event) => {
              event.currentTarget.setPointerCapture(event.pointerId)
              if (!isChosen && !event.shiftKey && !event.ctrlKey && !event.metaKey)
                selectPins({ areaId: area.id, frames: [key.frame] })
              hasMoved.current = false
              setDrag({ fromX: event.clientX, by: 0 })
            }}
            onPointerMove={(event) =>
              drag && setDrag({ ...drag, by: Math.round((event.clientX - drag.fromX) / perFrame()) })
            }
            onPointerUp={() => {
              if (drag && drag.by !== 0) {
                hasMoved.current = true
                move(chosen.length > 0 ? chosen : [key.frame], drag.by)
              }
              setDrag(null)
            }}
            onKeyDown={(event) => onKeyDown(event, key.frame)}
          >
            <svg
              viewBox="0 0 16 20"
              className="size-full"
              aria-hidden
              fill={isChosen ? 'var(--color-ink)' : 'none'}
              stroke={key.frame === frame ? 'var(--color-thread)' : 'var(--color-ink)'}
              strokeWidth={1.8}
            >
              <circle cx={8} cy={6} r={3.6} />
              <path d="M8 10v8" fill="none" />
            </svg>
          </button>
        )
      })}
    </div>
  )
}
