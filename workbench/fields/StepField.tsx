import {
  hasStepKeyAt,
  stepAt,
  withStepKeyAt,
  withStepValue,
  withoutStepKeyAt,
  type StepKey,
} from '../../core/stepKeys'
import { useBench } from '../BenchContext'
import { KeyedNumberField, type KeyedSetting } from './KeyedNumberField'

interface StepFieldProps extends KeyedSetting {
  readonly keys: readonly StepKey[]
  onChange(keys: StepKey[]): void
}

/** A whole number that may change from frame to frame: the pin keys what is seen here, so that it can differ from here on. */
export function StepField({ keys, onChange, ...setting }: StepFieldProps) {
  const frame = useBench((bench) => bench.frame)
  const isKeyed = hasStepKeyAt(keys, frame)
  const value = stepAt(keys, frame)
  return (
    <KeyedNumberField
      setting={setting}
      frame={frame}
      value={value}
      isKeyed={isKeyed}
      means="from here on it may differ"
      onValue={(next) => onChange(withStepValue(keys, frame, Math.round(next)))}
      onToggle={() => onChange(isKeyed ? withoutStepKeyAt(keys, frame) : withStepKeyAt(keys, frame, value))}
    />
  )
}
