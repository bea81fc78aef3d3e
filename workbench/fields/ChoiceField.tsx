import { ToggleGroup } from 'radix-ui'

export interface ChoiceFieldProps {
  readonly title: string
  readonly help?: string
  readonly value: string
  readonly choices: Readonly<Record<string, string>>
  onChange(value: string): void
}

/** More than this do not fit in one row. */
const MAX_IN_A_ROW = 4

export function ChoiceField({ title, help, value, choices, onChange }: ChoiceFieldProps) {
  const isLong = Object.keys(choices).length > MAX_IN_A_ROW
  return (
    <div className="grid grid-cols-[74px_1fr] items-center gap-2 py-1" title={help}>
      <span className="text-soft">{title}</span>
      <ToggleGroup.Root
        type="single"
        aria-label={title}
        value={value}
        onValueChange={(next) => next && onChange(next)}
        className={`flex min-w-0 rounded-sm bg-well p-0.5 ${isLong ? 'flex-wrap' : ''}`}
      >
        {Object.entries(choices).map(([name, words]) => (
          <ToggleGroup.Item
            key={name}
            value={name}
            className={`${isLong ? 'grow px-1.5' : 'flex-1 px-0.5'} rounded-xs py-0.5 text-soft data-[state=on]:bg-lifted data-[state=on]:text-ink`}
          >
            {words}
          </ToggleGroup.Item>
        ))}
      </ToggleGroup.Root>
    </div>
  )
}
