/** Where one looks, in the address: frame, zoom, selected mend. A link shows exactly this. */
import { useCallback } from 'react'
import { useSearchParams } from 'react-router'
import { compareOfText, textOfCompare } from '../core/view/compare'
import type { PlaceShown } from '../workbench/BenchProvider'
import { frameInAddress } from './frameInAddress'

export function usePlaceInAddress(firstFrame: number) {
  const [search] = useSearchParams()
  const onPlaceChange = useCallback(({ frame, scale, selectedId, compare }: PlaceShown) => {
    const next = new URLSearchParams({ frame: String(frame), zoom: String(Math.round(scale * 100)) })
    if (selectedId) next.set('mend', selectedId)
    // What is looked at stays: of a shot, its mends or one of its versions.
    const version = new URLSearchParams(window.location.search).get('version')
    if (version) next.set('version', version)
    const compared = textOfCompare(compare)
    if (compared) next.set('compare', compared)
    // Past the router: as a navigation of its own it would call off one to another stage that has just begun.
    window.history.replaceState(window.history.state, '', `${window.location.pathname}?${next.toString()}`)
  }, [])
  const start = {
    frame: frameInAddress(search) ?? firstFrame,
    scale: Math.min(Math.max(Number(search.get('zoom') ?? 0) || 0, 0), 3200) / 100,
    selectedId: search.get('mend'),
    compare: compareOfText(search.get('compare')),
  }
  return { start, onPlaceChange }
}
