/** What the keys that every stage on a shot has in common do. */
import type { PanelActions } from '../picture/usePanel'
import type { BenchStore } from '../store/bench'
import type { CommonShortcutId } from './shortcuts'

export function commonHandlers(
  store: BenchStore,
  panel: PanelActions,
): Readonly<Record<CommonShortcutId, () => void>> {
  const { plate, goTo, setPlaying, undo, redo, hideOverlays } = store.getState()
  const now = () => store.getState()
  return {
    play: () => setPlaying(!now().isPlaying),
    back: () => goTo(now().frame - 1),
    on: () => goTo(now().frame + 1),
    backTen: () => goTo(now().frame - 10),
    onTen: () => goTo(now().frame + 10),
    first: () => goTo(plate.firstFrame),
    last: () => goTo(plate.lastFrame),
    overlays: () => hideOverlays(!now().areOverlaysHidden),
    fit: panel.fit,
    full: panel.full,
    zoomIn: panel.zoomIn,
    zoomOut: panel.zoomOut,
    undo,
    redo,
  }
}
