/** A comparison's key: pressed, it stays; held, it goes again when the key is let go. Pressed once more, it goes too. */
import { useEffect, useMemo } from 'react'
import type { Comparison } from '../../core/view/compare'
import { keysOf, useKeyChoices } from '../shell/keyChoices'
import { SHORTCUTS } from '../shell/shortcuts'
import type { BenchStore } from '../store/bench'

/** Longer than somebody presses a key who means it to stay, ms. */
const HELD_MS = 350

export const COMPARISON_KEYS = {
  compareWipe: 'wipe',
  compareBeside: 'beside',
  compareFlip: 'flip',
  compareDifference: 'difference',
  compareMatte: 'matte',
  compareSeen: 'seen',
} as const satisfies Readonly<Record<string, Comparison>>

export class HeldComparison {
  readonly #store: BenchStore
  #down: { readonly mode: Comparison; readonly before: Comparison; readonly sinceMs: number } | null = null

  constructor(store: BenchStore) {
    this.#store = store
  }

  /** Keys that are held repeat themselves: only the first time counts. */
  press(mode: Comparison, nowMs: number): void {
    if (this.#down?.mode === mode) return
    const { compare, setCompare } = this.#store.getState()
    this.#down = { mode, before: compare.mode, sinceMs: nowMs }
    setCompare({ mode: compare.mode === mode ? 'off' : mode })
  }

  letGo(nowMs: number): void {
    const down = this.#down
    this.#down = null
    if (down && down.before !== down.mode && nowMs - down.sinceMs > HELD_MS)
      this.#store.getState().setCompare({ mode: down.before })
  }
}

export function useHeldComparison(store: BenchStore): HeldComparison {
  const held = useMemo(() => new HeldComparison(store), [store])
  const chosen = useKeyChoices((choices) => choices.chosen)
  useEffect(() => {
    const own = SHORTCUTS.filter(({ id }) => id in COMPARISON_KEYS).flatMap((shortcut) => keysOf(shortcut, chosen).map((key) => key.split('+').at(-1)!.toLowerCase())) // prettier-ignore
    const release = (event: KeyboardEvent) => {
      if (own.includes(event.key.toLowerCase())) held.letGo(event.timeStamp)
    }
    const leave = () => held.letGo(performance.now())
    window.addEventListener('keyup', release)
    window.addEventListener('blur', leave)
    return () => {
      window.removeEventListener('keyup', release)
      window.removeEventListener('blur', leave)
    }
  }, [chosen, held])
  return held
}

type ComparisonKey = keyof typeof COMPARISON_KEYS

export const comparisonHandlers = (held: HeldComparison): Readonly<Record<ComparisonKey, () => void>> =>
  Object.fromEntries(
    Object.entries(COMPARISON_KEYS).map(([id, mode]) => [id, () => held.press(mode, performance.now())]),
  ) as Record<ComparisonKey, () => void>
