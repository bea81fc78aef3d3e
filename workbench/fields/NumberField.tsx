import { Slider } from 'radix-ui'
import { useId, useState } from 'react'

export interface NumberFieldProps {
  readonly title: string
  readonly help?: string
  readonly unit: string
  readonly value: number
  readonly min: number
  readonly max: number
  readonly step: number
  readonly hasSlider?: boolean
  /** Called while the value moves; `onEnd` follows once. */
  onChange(value: number): void
  onEnd(): void
}

const digitsOf = (step: number): number => (step >= 1 ? 0 : step >= 0.1 ? 1 : 2)

/** A number with its unit: typed, dragged, or stepped with the arrow keys (Shift ten steps). */
export function NumberField({
  title,
  help,
  unit,
  value,
  min,
  max,
  step,
  hasSlider = true,
  onChange,
  onEnd,
}: NumberFieldProps) {
  const id = useId()
  const [text, setText] = useState<string | null>(null)
  const clamp = (next: number) => Math.min(Math.max(next, min), max)
  // What rounds to nothing has no sign.
  const shown = text ?? value.toFixed(digitsOf(step)).replace(/^-(0(\.0+)?)$/, '$1')
  const typed = text === null ? value : Number(text)
  const isBad = text !== null && (text.trim() === '' || !Number.isFinite(typed) || typed < min || typed > max)

  const keep = () => {
    if (text !== null && !isBad && typed !== value) {
      onChange(typed)
      onEnd()
    }
    setText(null)
  }

  return (
    <div className="grid grid-cols-[74px_1fr_88px] items-center gap-2 py-1" title={help}>
      <label htmlFor={id} className="truncate text-soft">
        {title}
      </label>
      {hasSlider ? (
        <Slider.Root
          className="relative flex h-5 touch-none items-center"
          min={min}
          max={max}
          step={step}
          value={[clamp(value)]}
          onValueChange={([next]) => onChange(next!)}
          onValueCommit={onEnd}
        >
          <Slider.Track className="relative h-0.5 grow bg-lifted">
            <Slider.Range className="absolute h-full bg-ink" />
          </Slider.Track>
          <Slider.Thumb
            aria-label={`${title}${unit ? `, ${unit}` : ''}`}
            className="block size-3.5 rounded-full border-2 border-ink bg-panel"
          />
        </Slider.Root>
      ) : (
        <span />
      )}
      <span
        className={`flex items-baseline rounded-sm bg-well px-1.5 focus-within:outline-2 focus-within:outline-thread ${isBad ? 'outline-2 outline-snag' : ''}`}
      >
        <input
          id={id}
          inputMode="decimal"
          autoComplete="off"
          aria-invalid={isBad}
          aria-description={`${min} to ${max} ${unit}`}
          className="w-full min-w-0 bg-transparent py-0.5 text-right font-mono outline-none"
          value={shown}
          onChange={(event) => setText(event.target.value)}
          onBlur={keep}
          onFocus={(event) => event.target.select()}
          onKeyDown={(event) => {
            if (event.key === 'Enter') keep()
            if (event.key === 'Escape') {
              setText(null)
              event.stopPropagation()
            }
            if (event.key !== 'ArrowUp' && event.key !== 'ArrowDown') return
            event.preventDefault()
            const by = (event.key === 'ArrowUp' ? step : -step) * (event.shiftKey ? 10 : 1)
            setText(null)
            onChange(clamp(Math.round((value + by) / step) * step))
          }}
          onKeyUp={(event) => (event.key === 'ArrowUp' || event.key === 'ArrowDown') && onEnd()}
        />
        {unit && <span className="pl-1 text-soft">{unit}</span>}
      </span>
    </div>
  )
}
