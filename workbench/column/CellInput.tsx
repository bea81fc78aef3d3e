/** A number in a table: typed, kept with Enter or by leaving; a bad one goes back. */
export function CellInput({
  label,
  value,
  min,
  max,
  onKeep,
}: {
  label: string
  value: number
  min: number
  max: number
  onKeep: (value: number) => void
}) {
  const keep = (input: HTMLInputElement) => {
    const next = Number(input.value)
    const isGood = input.value.trim() !== '' && Number.isFinite(next) && next >= min && next <= max
    if (isGood && next.toFixed(1) !== value.toFixed(1)) onKeep(next)
    else input.value = value.toFixed(1)
  }
  return (
    <input
      key={value}
      aria-label={label}
      inputMode="decimal"
      autoComplete="off"
      defaultValue={value.toFixed(1)}
      className="w-full min-w-0 rounded-xs bg-well px-1 text-right"
      onBlur={(event) => keep(event.target)}
      onKeyDown={(event) => event.key === 'Enter' && keep(event.currentTarget)}
    />
  )
}
