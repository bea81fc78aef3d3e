/** What surrounds the picture, and how values are read off: kept in this browser; the footage stays as it is. */
import { create } from 'zustand'
import { createJSONStorage, persist } from 'zustand/middleware'
import type { ValueUnit } from '../../core/view/values'

export const SURROUNDS = { dim: '#3a3a3a', grey: '#777777', black: '#000000', white: '#ffffff' } as const
export const SURROUND_TITLES = { dim: 'Dim', grey: 'Middle grey', black: 'Black', white: 'White' } as const
export type Surround = keyof typeof SURROUNDS

interface LookChoice {
  readonly surround: Surround
  readonly unit: ValueUnit
  choose(part: Partial<Pick<LookChoice, 'surround' | 'unit'>>): void
}

export const useLookChoice = create<LookChoice>()(
  persist((set) => ({ surround: 'dim', unit: 'code', choose: (part) => set(part) }), {
    name: 'fillagrant-look',
    storage: createJSONStorage(() => localStorage),
    partialize: ({ surround, unit }) => ({ surround, unit }),
    // The server knows of none: it is read once the page stands.
    skipHydration: true,
  }),
)
