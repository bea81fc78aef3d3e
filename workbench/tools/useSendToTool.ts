import { useCallback } from 'react'
import { addArea } from '../../core/document/areaCommands'
import { brushSchema } from '../../core/document/brush'
import { setTrack } from '../../core/document/trackCommands'
import { spreadPointsAt, withoutPoints } from '../../core/document/follow'
import { findFill } from '../../core/fill/registry'
import { isOnSurface } from '../../core/document/followSurface'
import { hasFaces, isOfSurface, KINDS } from '../../core/document/kinds'
import { insidePolygon } from '../../core/geometry/polygon'
import { useBenchParts } from '../BenchContext'
import { useSuggest } from '../tracking/useSuggest'
import { useTracking } from '../tracking/useTracking'
import { areaFromDrawing, geometryOf, mendFromDrawing } from './finishDrawing'
import { advanceTool, type Tool, type ToolEvent, type ToolStep } from './tool'
import { strokeSoFar, type WetStroke } from './wetStroke'

const AREA_WIDTH_PX = 10
/** A tone that is clicked is that of so much around. */
const CLICKED_TONE_PX = 5

/** All spots of a series are drawn: the tool is put down. */
const endsSpots = (before: Tool, after: Tool): boolean =>
  before.kind === 'draw' &&
  before.hasDrawn === true &&
  before.purpose.for === 'mend' &&
  isOfSurface(before.purpose.kind) &&
  after.kind === 'idle'

/** Of a tip that begins to fade so far from its middle, to hundredths. */
const softnessAt = (radiusPx: number, sizePx: number): number =>
  Math.round(100 * Math.max(0, 1 - (2 * radiusPx) / sizePx)) / 100

/** Sends an event to the tool, and turns what has been drawn into a step. */
export function useSendToTool(): (event: ToolEvent) => void {
  const { store, scene } = useBenchParts()
  const tracking = useTracking()
  const { suggest } = useSuggest()
  return useCallback(
    (event: ToolEvent) => {
      const { tool, selectedId, wet } = store.getState()
      const step = advanceTool(tool, event)
      store.getState().setTool(step.tool)
      if (step.tip) setTip(step.tip)
      if (step.painted) paint(step.painted, wet)
      if (step.drawn) finish(step.drawn)
      else if (endsSpots(tool, step.tool) && selectedId) followNewSpots(selectedId)

      function setTip({ part, radiusPx }: NonNullable<ToolStep['tip']>): void {
        const { brush, setBrush } = store.getState()
        const set = part === 'rim' ? { sizePx: Math.round(2 * radiusPx) } : { softness: softnessAt(radiusPx, brush.sizePx) } // prettier-ignore
        if (brushSchema.partial().safeParse(set).success) setBrush(set)
      }

      function paint(painted: NonNullable<ToolStep['painted']>, wet: WetStroke | null): void {
        const state = store.getState()
        const { made } = strokeSoFar({ ...state, wet }, painted, scene.scene)
        state.setBrush(made.brush)
        state.commit(made.edit)
        // Selected again, it would let go of the track that the next stroke is to ride on.
        if (state.selectedId !== made.mendId) state.select(made.mendId)
        state.selectArea(made.areaId)
        if (made.brush.then === 'next') state.goTo(Math.min(state.plate.lastFrame, state.frame + 1))
      }

      function followNewSpots(mendId: string): void {
        const { records, tracks } = store.getState()
        const mend = records.get(mendId)
        if (mend && isOfSurface(mend.kind) && !isOnSurface(mend, tracks)) tracking.followSkin(mendId)
      }

      function finish({ shape, purpose, places }: NonNullable<ToolStep['drawn']>): void {
        const state = store.getState()
        const { plate, frame, records, tracks } = state
        const span = { firstFrame: plate.firstFrame, lastFrame: plate.lastFrame }
        switch (purpose.for) {
          case 'mend': {
            if (shape === 'point' || shape === 'pair') return
            const geometry = geometryOf(shape, places, KINDS[purpose.kind].widthPx, plate)
            const made = mendFromDrawing(
              records,
              purpose.kind,
              geometry,
              span,
              frame,
              state.selectedId,
              purpose.recipe,
            )
            state.commit(made.edit)
            state.selectArea(made.areaId)
            if (KINDS[purpose.kind].clings && state.clingsWhenDrawn)
              void tracking.cling(made.mendId, made.areaId)
            if (hasFaces(purpose.kind)) tracking.findFaces(made.mendId, false)
            const { fill } = store.getState().records.get(made.mendId)!
            if (findFill(fill.methodId)?.needsSource?.(fill.params)) void suggest(made.mendId, made.areaId)
            return
          }
          case 'area': {
            const mend = records.get(purpose.mendId)
            if (!mend || shape === 'point' || shape === 'pair') return
            const area = areaFromDrawing(geometryOf(shape, places, AREA_WIDTH_PX, plate), frame, purpose.role)
            state.commit(addArea(mend, area))
            state.selectArea(area.id)
            return
          }
          case 'track': {
            const mend = records.get(purpose.mendId)
            if (mend)
              tracking.beginTrack(
                purpose.kind,
                places.flatMap(({ x, y }) => [x, y]),
                mend,
                purpose.areaId,
              )
            return
          }
          case 'tone': {
            const geometry = geometryOf('ellipse', places, AREA_WIDTH_PX, plate)
            if (geometry.shape !== 'ellipse') return
            const { x, y, radiusXPx, radiusYPx } = geometry
            const radiusPx = places.length === 1 ? CLICKED_TONE_PX : Math.max(radiusXPx, radiusYPx)
            tracking.learnTone(purpose.mendId, purpose.use, { x, y, radiusPx })
            return
          }
          case 'lasso': {
            const track = tracks.get(purpose.trackId)
            if (!track) return
            const loop = places.flatMap(({ x, y }) => [x, y])
            const bad = spreadPointsAt(track, frame).flatMap((point, index) =>
              insidePolygon(loop, point.x, point.y) ? [index] : [],
            )
            if (bad.length > 0)
              state.commit(
                setTrack(track, withoutPoints(track, bad), `Delete ${bad.length} points of ${track.name}`),
              )
          }
        }
      }
    },
    [scene, store, suggest, tracking],
  )
}
