/** The radius of blotches as a share of the face: the same setting as in px, for those who think in faces. */
import { setFillParam } from '../../core/document/commands'
import type { MendRecord } from '../../core/document/mend'
import { skinSettings } from '../../core/fill/evenSkin/evenSkin'
import { placeArea } from '../../core/plan/placedArea'
import { useBench, useBenchParts } from '../BenchContext'
import { NumberField } from '../fields/NumberField'

const [MIN_PX, MAX_PX] = [2, 160] // as the setting itself

export function RadiusOfFace({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const tracks = useBench((bench) => bench.tracks)
  const frame = useBench((bench) => bench.frame)
  const heights = mend.areas
    .filter(({ role }) => role === 'cover')
    .flatMap((area) => placeArea(area, tracks, frame).box?.height ?? [])
  if (heights.length === 0) return null
  const heightPx = Math.max(...heights)
  const { preview, endGesture } = store.getState()
  const percentOf = (px: number) => (100 * px) / heightPx
  return (
    <NumberField
      title="Radius share"
      help="The radius as a share of the face, that is of the height of what was outlined: a twelfth is usual."
      unit="%"
      value={percentOf(skinSettings(mend.fill.params).radiusPx)}
      min={percentOf(MIN_PX)}
      max={percentOf(MAX_PX)}
      step={0.1}
      hasSlider={false}
      onChange={(percent) => {
        const radiusPx = Math.min(MAX_PX, Math.max(MIN_PX, (percent * heightPx) / 100))
        preview(setFillParam(store.getState().records.get(mend.id)!, 'radiusPx', radiusPx, 'Radius'))
      }}
      onEnd={endGesture}
    />
  )
}
