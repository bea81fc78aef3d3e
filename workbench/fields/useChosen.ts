import { useState } from 'react'

interface Chosen {
  readonly chosen: ReadonlySet<string>
  choose(ids: Iterable<string>): void
  toggle(id: string): void
}

/** Some of a list, by id. */
export function useChosen(start: () => Iterable<string> = () => []): Chosen {
  const [chosen, setChosen] = useState<ReadonlySet<string>>(() => new Set(start()))
  return {
    chosen,
    choose: (ids) => setChosen(new Set(ids)),
    toggle: (id) =>
      setChosen((now) =>
        now.has(id) ? new Set([...now].filter((one) => one !== id)) : new Set([...now, id]),
      ),
  }
}
