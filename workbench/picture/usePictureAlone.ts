/** The picture fills the screen, with nothing else: by the browser's full screen where it has one, else the window. */
import { useEffect, type RefObject } from 'react'
import { useBench, useBenchParts } from '../BenchContext'

export function usePictureAlone(panel: RefObject<HTMLElement | null>): void {
  const { store } = useBenchParts()
  const isAlone = useBench((bench) => bench.isPictureAlone)
  useEffect(() => {
    const element = panel.current
    if (!isAlone || !element) return
    element.focus()
    const isWanted = () => store.getState().isPictureAlone
    element
      .requestFullscreen?.()
      // It takes a while: left meanwhile, there was nothing to leave yet.
      .then(() => (isWanted() ? undefined : document.exitFullscreen()))
      // Refused by the browser, the window is filled all the same.
      .catch(() => undefined)
    const leave = () => !document.fullscreenElement && store.getState().showPictureAlone(false)
    document.addEventListener('fullscreenchange', leave)
    const escape = ({ key }: KeyboardEvent) => key === 'Escape' && store.getState().showPictureAlone(false)
    window.addEventListener('keydown', escape)
    return () => {
      window.removeEventListener('keydown', escape)
      document.removeEventListener('fullscreenchange', leave)
      if (document.fullscreenElement) void document.exitFullscreen()
    }
  }, [isAlone, panel, store])
}
