import { useId } from 'react'

export interface ColourFieldProps {
  readonly title: string
  readonly help?: string
  /** `#rrggbb`. */
  readonly value: string
  onChange(value: string): void
  onEnd(): void
}

export function ColourField({ title, help, value, onChange, onEnd }: ColourFieldProps) {
  const id = useId()
  return (
    <div className="grid grid-cols-[74px_1fr_88px] items-center gap-2 py-1" title={help}>
      <label htmlFor={id} className="truncate text-soft">
        {title}
      </label>
      <input
        id={id}
        type="color"
        className="h-6 w-full rounded-sm bg-well"
        value={value}
        onChange={(event) => onChange(event.target.value)}
        onBlur={onEnd}
      />
      <span className="text-right font-mono">{value}</span>
    </div>
  )
}
