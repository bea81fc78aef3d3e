/** Finding shots: words, production, state, order. It is in the address, so that it stays when one comes back. */
import { Search } from 'lucide-react'
import { EVERY_SHOT, SHOT_ORDERS, SHOT_STATES, type ShotFilter } from '../core/jobs/shotList'

interface ShotFilterBarProps {
  readonly filter: ShotFilter
  readonly productions: readonly { readonly id: string; readonly name: string }[]
  /** How many are shown of how many. */
  readonly words: string
  onChange(filter: ShotFilter): void
}

export function ShotFilterBar({ filter, productions, words, onChange }: ShotFilterBarProps) {
  const change = (part: Partial<ShotFilter>) => onChange({ ...filter, ...part })
  const isNarrowed = filter.find !== '' || filter.production !== '' || filter.state !== 'all'
  return (
    <search className="mb-4 flex items-center gap-3 text-soft">
      <label className="flex items-center gap-2 rounded-sm bg-well px-2">
        <Search aria-hidden className="size-4" />
        <input
          type="search"
          aria-label="Find shots"
          placeholder="Name, title, production"
          className="w-56 bg-transparent py-1 text-ink outline-none"
          value={filter.find}
          onChange={(event) => change({ find: event.target.value })}
        />
      </label>
      <Choice
        label="Production"
        value={filter.production}
        choices={[['', 'All productions'], ...productions.map(({ id, name }) => [id, name] as const)]}
        onChange={(production) => change({ production })}
      />
      <Choice
        label="State"
        value={filter.state}
        choices={Object.entries(SHOT_STATES)}
        onChange={(state) => change({ state: state as ShotFilter['state'] })}
      />
      <Choice
        label="Order"
        value={filter.order}
        choices={Object.entries(SHOT_ORDERS)}
        onChange={(order) => change({ order: order as ShotFilter['order'] })}
      />
      <span role="status">{words}</span>
      {isNarrowed && (
        <button
          type="button"
          className="underline"
          onClick={() => onChange({ ...EVERY_SHOT, order: filter.order })}
        >
          Show all
        </button>
      )}
    </search>
  )
}

interface ChoiceProps {
  readonly label: string
  readonly value: string
  /** Each with its words. */
  readonly choices: readonly (readonly [value: string, words: string])[]
  onChange(value: string): void
}

function Choice({ label, value, choices, onChange }: ChoiceProps) {
  return (
    <select
      aria-label={label}
      className="rounded-sm bg-well px-2 py-1 text-ink"
      value={value}
      onChange={(event) => onChange(event.target.value)}
    >
      {choices.map(([choice, words]) => (
        <option key={choice} value={choice}>
          {words}
        </option>
      ))}
    </select>
  )
}
