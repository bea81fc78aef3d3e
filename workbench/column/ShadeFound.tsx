/** How deep a shadow was found to be on this frame, and by what. */
import type { ShadeMeasure } from '../../core/measure/mendMeasure'
import { useShownFrame } from '../preview/useFrameState'

const BY: Readonly<Record<ShadeMeasure['by'], string>> = {
  frames: 'Depth by other frames, which show the ground lit.',
  edge: 'No other frame shows the ground lit: depth by what lies across the shadow’s edge. Look at the rim, and trim Depth.',
  nothing: 'Nothing here is darker than its ground is otherwise: the picture stays as it is.',
}
/** A smaller share of an area is not worth words. */
const TOLD_FROM = 0.001
const COLOURS = ['red', 'green', 'blue']

export function ShadeFound({ mendId }: { mendId: string }) {
  const { mended } = useShownFrame()
  const shade = mended?.measures.find((one) => one.mendId === mendId && one.shade)?.shade
  if (!shade) return null
  return (
    <section aria-label="Shadow found" className="mt-1 rounded-sm border border-line p-2">
      <p data-testid="shade-found" className={shade.by === 'frames' ? '' : 'text-caution'}>
        {BY[shade.by]}
      </p>
      {shade.glintShare >= TOLD_FROM && (
        <p className="text-soft">
          {`${(100 * shade.glintShare).toFixed(1)} % of it shines by itself, as water does: there other frames show the ground.`}
        </p>
      )}
      {shade.by !== 'nothing' && <p className="font-mono text-xs text-soft">{depthWords(shade)}</p>}
    </section>
  )
}

/** "−1.20 red, −1.10 green, −0.90 blue stops" */
export function depthWords({ depthStops }: Pick<ShadeMeasure, 'depthStops'>): string {
  const each = depthStops.map((stops, c) => {
    const value = `−${stops.toFixed(2)}`
    return depthStops.length === COLOURS.length ? `${value} ${COLOURS[c]}` : value
  })
  return `${each.join(', ')} stops`
}
