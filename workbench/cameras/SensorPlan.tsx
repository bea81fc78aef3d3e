/** A sensor with its bad places, as large as they are; the chosen one marked. */
import type { SensorMap } from '../../core/survey/sensorMap'

export interface PlaceId {
  readonly kind: 'pixel' | 'mote'
  readonly index: number
}

export const isSamePlace = (a: PlaceId | null, b: PlaceId): boolean =>
  a?.kind === b.kind && a.index === b.index

interface SensorPlanProps {
  readonly map: Pick<SensorMap, 'sensor' | 'pixels' | 'motes'>
  readonly selected: PlaceId | null
  onSelect(place: PlaceId): void
}

/** A bad pixel is drawn as a cross of this share of the sensor's width: it is too small to be seen itself. */
const CROSS = 0.006
const PLAN_HEIGHT = 300

export function SensorPlan({ map: { sensor, pixels, motes }, selected, onSelect }: SensorPlanProps) {
  const arm = CROSS * sensor.width
  return (
    <svg
      viewBox={`0 0 ${sensor.width} ${sensor.height}`}
      className="max-w-full shrink-0 self-start rounded-sm border border-line bg-well"
      height={PLAN_HEIGHT}
      role="img"
      aria-label={`Sensor of ${sensor.width} × ${sensor.height} px with ${pixels.length} bad pixels and ${motes.length} motes`}
    >
      {[1, 2, 3].map((k) => (
        <path
          key={k}
          d={`M${(k * sensor.width) / 4} 0V${sensor.height}M0 ${(k * sensor.height) / 4}H${sensor.width}`}
          className="stroke-raised"
          strokeWidth={sensor.width / 900}
        />
      ))}
      {motes.map(({ x, y, radiusXPx, radiusYPx, turnDeg }, index) => (
        <ellipse
          key={`mote-${index}`}
          cx={x}
          cy={y}
          rx={radiusXPx}
          ry={radiusYPx}
          transform={`rotate(${turnDeg} ${x} ${y})`}
          className={`cursor-pointer fill-transparent ${isSamePlace(selected, { kind: 'mote', index }) ? 'stroke-thread' : 'stroke-soft'}`}
          strokeWidth={sensor.width / 500}
          strokeDasharray={`${sensor.width / 200} ${sensor.width / 320}`}
          onClick={() => onSelect({ kind: 'mote', index })}
        />
      ))}
      {pixels.map(({ x, y }, index) => (
        <g
          key={`pixel-${index}`}
          className="cursor-pointer"
          onClick={() => onSelect({ kind: 'pixel', index })}
        >
          <rect
            x={x - 2 * arm}
            y={y - 2 * arm}
            width={4 * arm}
            height={4 * arm}
            className="fill-transparent"
          />
          <path
            d={`M${x - arm} ${y}h${2 * arm}M${x} ${y - arm}v${2 * arm}`}
            className={isSamePlace(selected, { kind: 'pixel', index }) ? 'stroke-thread' : 'stroke-ink'}
            strokeWidth={sensor.width / 500}
          />
        </g>
      ))}
    </svg>
  )
}
