/** Finding shots: words, production, state, order. It is in the address, so that it stays when one comes back. */
import { Search } from 'lucide-react'
import { EVERY_SHOT, SHOT_ORDERS, SHOT_STATES, type ShotFilter } from '../core/jobs/shotList'

const SELECT = 'rounded-sm bg-well px-2 py-1 text-ink'

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
      <select
        aria-label="Production"
        className={SELECT}
        value={filter.production}
        onChange={(event) => change({ production: event.target.value })}
      >
        <option value="">All productions</option>
        {productions.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </select>
      <select
        aria-label="State"
        className={SELECT}
        value={filter.state}
        onChange={(event) => change({ state: event.target.value as ShotFilter['state'] })}
      >
        {Object.entries(SHOT_STATES).map(([state, title]) => (
          <option key={state} value={state}>
            {title}
          </option>
        ))}
      </select>
      <select
        aria-label="Order"
        className={SELECT}
        value={filter.order}
        onChange={(event) => change({ order: event.target.value as ShotFilter['order'] })}
      >
        {Object.entries(SHOT_ORDERS).map(([order, title]) => (
          <option key={order} value={order}>
            {title}
          </option>
        ))}
      </select>
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
