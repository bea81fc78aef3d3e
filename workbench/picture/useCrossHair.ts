/** Drawing by keyboard: a cross-hair that arrows move over the picture; a key sets a point where it is. */
import { useCallback, useState, type KeyboardEvent } from 'react'
import type { Place } from '../../core/geometry/transform'
import { useBench } from '../BenchContext'
import { isDragged } from '../tools/tool'
import { useSendToTool } from '../tools/useSendToTool'

const ARROWS: Readonly<Record<string, readonly [dx: number, dy: number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
}

/** As handles are moved; the largest step crosses a picture. */
const stepPx = ({ altKey, shiftKey, ctrlKey }: KeyboardEvent): number =>
  altKey ? 0.1 : ctrlKey ? 100 : shiftKey ? 10 : 1

export interface CrossHair {
  /** Null while drawing is done with the pointer. */
  readonly at: Place | null
  onKeyDown(event: KeyboardEvent): void
  /** The pointer has taken over. */
  leave(): void
}

/** @param middle  Of what is seen of the picture: where it begins. */
export function useCrossHair(middle: () => Place): CrossHair {
  const tool = useBench((bench) => bench.tool)
  const send = useSendToTool()
  const [place, setPlace] = useState<Place | null>(null)
  const at = tool.kind === 'idle' ? null : place

  const onKeyDown = useCallback(
    (event: KeyboardEvent) => {
      if (tool.kind === 'idle') return
      const arrow = ARROWS[event.key]
      if (!arrow && event.key !== ' ') return
      event.preventDefault()
      event.stopPropagation()
      const from = at ?? middle()
      const px = stepPx(event)
      const to = arrow ? { x: from.x + arrow[0] * px, y: from.y + arrow[1] * px } : from
      setPlace(to)
      if (arrow) return send({ kind: 'move', at: to })
      const isDrag = tool.kind === 'brush' || isDragged(tool.shape)
      const isBegun = isDrag && (tool.kind === 'brush' ? tool.points : tool.places).length > 0
      // No slip of the hand: a place set again ends a drawing only where it is the same place.
      const set = { at: to, pxPerScreenPx: 0.01 }
      if (isDrag && !isBegun) send({ kind: 'press', ...set })
      else send({ kind: 'release', ...set })
    },
    [at, middle, send, tool],
  )
  const leave = useCallback(() => setPlace(null), [])
  return { at, onKeyDown, leave }
}
