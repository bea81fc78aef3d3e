import { useState } from 'react'
import { z } from 'zod'

export interface DateFieldProps {
  readonly label: string
  readonly value: string
  readonly className: string
  onChange(value: string): void
}

const date = z.iso.date()

/** A day, written as everywhere here: year, month, day (ISO 8601). Kept when it is one. */
export function DateField({ label, value, className, onChange }: DateFieldProps) {
  const [text, setText] = useState<string | null>(null)
  const isBad = text !== null && !date.safeParse(text).success
  return (
    <input
      aria-label={label}
      aria-invalid={isBad}
      aria-description="Year, month and day, as in 2026-03-21"
      title={isBad ? 'Year, month and day, as in 2026-03-21' : undefined}
      inputMode="numeric"
      placeholder="2026-03-21"
      maxLength={10}
      className={`${className} font-mono ${isBad ? 'outline-2 outline-snag' : ''}`}
      value={text ?? value}
      onChange={(event) => {
        setText(event.target.value)
        if (date.safeParse(event.target.value).success) onChange(event.target.value)
      }}
      onBlur={() => setText(null)}
    />
  )
}
