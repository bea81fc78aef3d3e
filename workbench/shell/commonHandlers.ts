/** What the keys that every stage on a shot has in common do. */
import { useEffect } from 'react'
import type { PanelActions } from '../picture/usePanel'
import type { BenchStore } from '../store/bench'
import { playedRange } from '../store/benchState'
import { TYPE_FRAME_EVENT } from '../strip/FrameEntry'
import { keysOf, useKeyChoices } from './keyChoices'
import { SHORTCUTS, type CommonShortcutId } from './shortcuts'

export function commonHandlers(
  store: BenchStore,
  panel: PanelActions,
): Readonly<Record<CommonShortcutId, () => void>> {
  const { plate, goTo, setPlaying, setPlayRange, showPictureAlone, undo, redo, hideOverlays, showPlate, latchPlate } = store.getState() // prettier-ignore
  const now = () => store.getState()
  return {
    play: () => setPlaying(!now().isPlaying),
    back: () => goTo(now().frame - 1),
    on: () => goTo(now().frame + 1),
    backTen: () => goTo(now().frame - 10),
    onTen: () => goTo(now().frame + 10),
    first: () => goTo(plate.firstFrame),
    last: () => goTo(plate.lastFrame),
    // A start behind the end, or an end before the start, begins a range of its own.
    rangeFrom: () => {
      const { lastFrame } = playedRange(now())
      setPlayRange({
        firstFrame: now().frame,
        lastFrame: now().frame > lastFrame ? plate.lastFrame : lastFrame,
      })
    },
    rangeTo: () => {
      const { firstFrame } = playedRange(now())
      setPlayRange({
        firstFrame: now().frame < firstFrame ? plate.firstFrame : firstFrame,
        lastFrame: now().frame,
      })
    },
    rangeAll: () => setPlayRange(null),
    alone: () => showPictureAlone(!now().isPictureAlone),
    goTo: () => window.dispatchEvent(new Event(TYPE_FRAME_EVENT)),
    plate: () => showPlate(true),
    plateLatch: () => latchPlate(!now().isPlateLatched),
    overlays: () => hideOverlays(!now().areOverlaysHidden),
    fit: panel.fit,
    full: panel.full,
    zoomIn: panel.zoomIn,
    zoomOut: panel.zoomOut,
    undo,
    redo,
  }
}

const HELD = SHORTCUTS.find(({ id }) => id === 'plate')!

/** The plate is shown only as long as its key is held, unless it is latched. */
export function useHeldPlate(store: BenchStore): void {
  const chosen = useKeyChoices((choices) => choices.chosen)
  useEffect(() => {
    const own = keysOf(HELD, chosen).map((key) => key.split('+').at(-1)!.toLowerCase())
    const letGo = () => store.getState().showPlate(false)
    const release = (event: KeyboardEvent) => {
      if (own.includes(event.key.toLowerCase())) letGo()
    }
    window.addEventListener('keyup', release)
    window.addEventListener('blur', letGo)
    return () => {
      window.removeEventListener('keyup', release)
      window.removeEventListener('blur', letGo)
    }
  }, [chosen, store])
}
