/** The picture's panel and what can be done with the view of it: fitted, at 100 %, closer, further, brought to a place. */
import { useCallback, useEffect, useMemo, useRef, type RefObject } from 'react'
import { useBench, useBenchParts } from '../BenchContext'
import { halvesShown } from '../store/benchState'
import { centredView, fitView, nextScaleDown, nextScaleUp, viewShowing, zoomAbout } from './view'

export interface PanelActions {
  fit(): void
  full(): void
  zoomIn(): void
  zoomOut(): void
  /** Brings a place into sight where it is not; enlarged by at least so much, where that is given. */
  show(x: number, y: number, scale?: number): void
}

/** @param startScale  What the address brought; 0: fitted. */
export function usePanel(startScale: number): {
  readonly region: RefObject<HTMLElement | null>
  readonly actions: PanelActions
} {
  const { setView, store } = useBenchParts()
  const plate = useBench((bench) => bench.plate)
  const region = useRef<HTMLElement>(null)
  /** Read when it is needed. */
  const size = useCallback(() => {
    const panel = region.current?.querySelector<HTMLElement>('[data-testid="picture"]')
    return { width: panel?.clientWidth ?? 0, height: panel?.clientHeight ?? 0 }
  }, [])
  useEffect(() => {
    if (startScale > 0) setView(centredView(plate, size(), startScale))
    // Only what the address brought at first.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [])
  const actions = useMemo<PanelActions>(() => {
    const zoom = (next: (scale: number) => number) => {
      const { width, height } = size()
      setView((view) => zoomAbout(view, next(view.scale), width / 2, height / 2))
    }
    return {
      fit: () => setView(fitView(plate, size(), halvesShown(store.getState()))),
      full: () => setView(centredView(plate, size(), 1)),
      zoomIn: () => zoom(nextScaleUp),
      zoomOut: () => zoom(nextScaleDown),
      show: (x, y, scale) => setView((view) => viewShowing(view, size(), x, y, scale)),
    }
  }, [plate, setView, size, store])
  return { region, actions }
}
