import { Pin, PinOff } from 'lucide-react'
import { NumberField } from './NumberField'

/** What a keyed setting is called, and its range. */
export interface KeyedSetting {
  readonly title: string
  readonly help?: string
  readonly unit: string
  readonly min: number
  readonly max: number
  readonly step: number
  onEnd(): void
}

interface KeyedNumberFieldProps {
  readonly setting: KeyedSetting
  readonly frame: number
  readonly value: number
  readonly isKeyed: boolean
  /** What a key there changes. */
  readonly means: string
  onValue(value: number): void
  /** Sets a key on the frame, or takes it away. */
  onToggle(): void
}

/** A number as it is on the frame that is looked at, with a pin that keys it there. */
export function KeyedNumberField({
  setting: { title, help, unit, min, max, step, onEnd },
  frame,
  value,
  isKeyed,
  means,
  onValue,
  onToggle,
}: KeyedNumberFieldProps) {
  const what = title.toLowerCase()
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
        onChange={onValue}
        onEnd={onEnd}
      />
      <button
        type="button"
        aria-label={isKeyed ? `Remove the key of ${what} at ${frame}` : `Key ${what} at ${frame}`}
        aria-pressed={isKeyed}
        title={isKeyed ? `Remove its key at ${frame}` : `Key it at ${frame}: ${means}`}
        className={`rounded-sm p-1 hover:bg-lifted ${isKeyed ? 'text-thread' : 'text-soft'}`}
        onClick={() => {
          onToggle()
          onEnd()
        }}
      >
        {isKeyed ? <PinOff aria-hidden className="size-3.5" /> : <Pin aria-hidden className="size-3.5" />}
      </button>
    </div>
  )
}
