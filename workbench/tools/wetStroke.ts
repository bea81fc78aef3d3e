/** The stroke that is being painted, as the picture shows it before the pen is lifted. */
import { useEffect } from 'react'
import { applyEdit, type ShotState } from '../../core/document/edits'
import type { Scene } from '../../core/scene/scene'
import type { FrameCache } from '../preview/frameCache'
import type { BenchStore } from '../store/bench'
import type { BenchState } from '../store/benchState'
import { shotDocumentOf } from '../store/shotDocument'
import { finishStroke, type PaintedStroke, type StrokeStart } from './finishStroke'
import type { ToolStep } from './tool'

type Painted = NonNullable<ToolStep['painted']>
type State = StrokeStart & Pick<BenchState, 'wet'>

export interface WetStroke {
  readonly made: PaintedStroke
  /** What it was made of. */
  readonly from: StrokeStart
  readonly points: Painted['points']
  /** So many of them were on the screen when it was made. */
  readonly shownPoints: number
}

/** A stroke as far as it is painted, by the ids that it has had so far. One that is wet already, with nothing added, is the same object. */
export function strokeSoFar(state: State, painted: Painted, scene: Scene | null): WetStroke {
  const { wet } = state
  const { plate, frame, records, tracks, selectedId, trackId, brush } = state
  const from: StrokeStart = { plate, frame, records, tracks, selectedId, trackId, brush }
  const isSame = wet?.points === painted.points && Object.entries(from).every(([name, value]) => wet.from[name as keyof StrokeStart] === value) // prettier-ignore
  if (isSame) return wet
  return {
    from,
    points: painted.points,
    shownPoints: wet?.points.length ?? 0,
    made: finishStroke(state, painted, shotDocumentOf(state, scene), wet?.made),
  }
}

/** Mends and tracks with the stroke that is wet. */
export const withWetStroke = (state: ShotState, wet: WetStroke): ShotState => applyEdit(state, wet.made.edit)

/**
 * Keeps the wet stroke up with the pen. What was begun of it is shown before more is asked for: a pen moves faster than
 * frames are mended.
 */
export function useWetStroke(store: BenchStore, cache: FrameCache | null, scene: Scene | null): void {
  useEffect(() => {
    const look = () => {
      const state = store.getState()
      const { tool, wet, frame, isPlateShown } = state
      if (tool.kind !== 'brush' || tool.points.length === 0 || isPlateShown) {
        if (wet) state.setWet(null)
        return
      }
      const isBusy = wet !== null && cache?.stateAt(frame).progress !== null
      if (isBusy || wet?.points === tool.points) return
      state.setWet(strokeSoFar(state, tool, scene))
    }
    const stops = [store.subscribe(look), cache?.subscribe((frame) => frame === store.getState().frame && look())] // prettier-ignore
    return () => stops.forEach((stop) => stop?.())
  }, [cache, scene, store])
}
