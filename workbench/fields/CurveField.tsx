import {
  hasCurveKeyAt,
  levelAt,
  withCurveKeyAt,
  withLevelAt,
  withoutCurveKeyAt,
  type CurveKey,
} from '../../core/curveKeys'
import { useBench } from '../BenchContext'
import { KeyedNumberField, type KeyedSetting } from './KeyedNumberField'

interface CurveFieldProps extends KeyedSetting {
  readonly keys: readonly CurveKey[]
  onChange(keys: CurveKey[]): void
}

/** A number that may go from key to key: once there are two, setting it on a frame keys it there. */
export function CurveField({ keys, onChange, ...setting }: CurveFieldProps) {
  const frame = useBench((bench) => bench.frame)
  const isKeyed = hasCurveKeyAt(keys, frame)
  const level = levelAt(keys, frame)
  return (
    <KeyedNumberField
      setting={setting}
      frame={frame}
      value={level}
      isKeyed={isKeyed}
      means="it goes straight from key to key"
      onValue={(next) => onChange(withLevelAt(keys, frame, next))}
      onToggle={() => onChange(isKeyed ? withoutCurveKeyAt(keys, frame) : withCurveKeyAt(keys, frame, level))}
    />
  )
}
