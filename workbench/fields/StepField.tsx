import {
  hasStepKeyAt,
  stepAt,
  withStepKeyAt,
  withStepValue,
  withoutStepKeyAt,
  type StepKey,
} from '../../core/stepKeys'
import { useBench } from '../BenchContext'
import { KeyPin } from './KeyPin'
import { NumberField } from './NumberField'

export interface HeldFieldProps {
  readonly title: string
  readonly help?: string
  readonly unit: string
  readonly min: number
  readonly max: number
  readonly step: number
  readonly keys: readonly StepKey[]
  onChange(keys: StepKey[]): void
  onEnd(): void
}

/** A whole number that may change from frame to frame: the pin keys what is seen here, so that it can differ from here on. */
export function StepField({ title, help, unit, min, max, step, keys, onChange, onEnd }: HeldFieldProps) {
  const frame = useBench((bench) => bench.frame)
  const isKeyed = hasStepKeyAt(keys, frame)
  const value = stepAt(keys, frame)
  const toggle = () => {
    onChange(isKeyed ? withoutStepKeyAt(keys, frame) : withStepKeyAt(keys, frame, value))
    onEnd()
  }
  return (
    <div className="grid grid-cols-[1fr_24px] items-center gap-1">
      <NumberField
        title={title}
        help={help}
        unit={unit}
        value={value}
        min={min}
        max={max}
        step={step}
        onChange={(next) => onChange(withStepValue(keys, frame, Math.round(next)))}
        onEnd={onEnd}
      />
      <KeyPin
        title={title}
        frame={frame}
        isKeyed={isKeyed}
        means="from here on it may differ"
        onToggle={toggle}
      />
    </div>
  )
}
