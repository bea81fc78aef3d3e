import {
  hasCurveKeyAt,
  levelAt,
  withCurveKeyAt,
  withLevelAt,
  withoutCurveKeyAt,
  type CurveKey,
} from '../../core/curveKeys'
import { useBench } from '../BenchContext'
import { KeyPin } from './KeyPin'
import { NumberField } from './NumberField'

interface CurveFieldProps {
  readonly title: string
  readonly help?: string
  readonly unit: string
  readonly min: number
  readonly max: number
  readonly step: number
  readonly keys: readonly CurveKey[]
  onChange(keys: CurveKey[]): void
  onEnd(): void
}

/** A number that may go from key to key: once there are two, setting it on a frame keys it there. */
export function CurveField({ keys, onChange, onEnd, ...number }: CurveFieldProps) {
  const frame = useBench((bench) => bench.frame)
  const isKeyed = hasCurveKeyAt(keys, frame)
  const level = levelAt(keys, frame)
  const toggle = () => {
    onChange(isKeyed ? withoutCurveKeyAt(keys, frame) : withCurveKeyAt(keys, frame, level))
    onEnd()
  }
  return (
    <div className="grid grid-cols-[1fr_24px] items-center gap-1">
      <NumberField
        {...number}
        value={level}
        onChange={(next) => onChange(withLevelAt(keys, frame, next))}
        onEnd={onEnd}
      />
      <KeyPin
        title={number.title}
        frame={frame}
        isKeyed={isKeyed}
        means="it goes straight from key to key"
        onToggle={toggle}
      />
    </div>
  )
}
