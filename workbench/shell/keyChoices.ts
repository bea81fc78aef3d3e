/** Keys that somebody has chosen in place of those that the lists give: kept in this browser. */
import { create } from 'zustand'
import { createJSONStorage, persist } from 'zustand/middleware'
import type { Shortcut } from './shortcuts'

interface KeyChoices {
  /** By the id of the shortcut, as the key listener writes it. */
  readonly chosen: Readonly<Record<string, string>>
  choose(id: string, key: string): void
  /** Back to what the list gives. */
  forget(id: string): void
  forgetAll(): void
}

export const useKeyChoices = create<KeyChoices>()(
  persist(
    (set) => ({
      chosen: {},
      choose: (id, key) => set(({ chosen }) => ({ chosen: { ...chosen, [id]: key } })),
      forget: (id) =>
        set(({ chosen }) => {
          const { [id]: _forgotten, ...rest } = chosen
          return { chosen: rest }
        }),
      forgetAll: () => set({ chosen: {} }),
    }),
    {
      name: 'fillagrant-keys',
      storage: createJSONStorage(() => localStorage),
      partialize: ({ chosen }) => ({ chosen }),
      // The server knows of none: they are read once the page stands.
      skipHydration: true,
    },
  ),
)

type Chosen = KeyChoices['chosen']

/** The keys of a shortcut now. */
export const keysOf = ({ id, keys }: Shortcut, chosen: Chosen): readonly string[] =>
  chosen[id] === undefined ? keys : [chosen[id]]

/** How a shortcut's key is written on buttons and sheets. */
export const shownOf = (shortcut: Shortcut, chosen: Chosen): string =>
  chosen[shortcut.id] === undefined ? shortcut.shown : wordsOfKey(chosen[shortcut.id]!)

/** The shortcut that a key already belongs to; undefined where it is free. */
export const takenBy = <S extends Shortcut>(
  key: string,
  shortcuts: readonly S[],
  chosen: Chosen,
): S | undefined =>
  shortcuts.find((shortcut) =>
    keysOf(shortcut, chosen).some((one) => one.toLowerCase() === key.toLowerCase()),
  )

/** Keys that change what others mean; alone they are none. */
const MODIFIERS = ['Shift', 'Control', 'Alt', 'Meta', 'AltGraph', 'CapsLock']

type Pressed = Pick<KeyboardEvent, 'key' | 'code' | 'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey'>

/** A key that was pressed, as the key listener writes it; null while only modifiers are held. */
export function keyFrom({ key, code, ctrlKey, metaKey, altKey, shiftKey }: Pressed): string | null {
  if (MODIFIERS.includes(key)) return null
  const named = code === 'Space' ? 'Space' : key.length === 1 ? key.toLowerCase() : key
  const held = [ctrlKey || metaKey ? '$mod' : '', altKey ? 'Alt' : '', shiftKey ? 'Shift' : '']
  return [...held.filter(Boolean), named].join('+')
}

const SHOWN: Readonly<Record<string, string>> = {
  $mod: 'Ctrl',
  ArrowLeft: '←',
  ArrowRight: '→',
  ArrowUp: '↑',
  ArrowDown: '↓',
  PageUp: 'Page ↑',
  PageDown: 'Page ↓',
  Delete: 'Del',
  Escape: 'Esc',
}

const wordsOfKey = (key: string): string =>
  key
    .split(/(?<=.)\+(?=.)/)
    .map((part) => SHOWN[part] ?? (part.length === 1 ? part.toUpperCase() : part))
    .join(' ')
