/** What surrounds the picture, how values are read off, and whether their spread is shown: kept in this browser; the footage stays as it is. */
import { create } from 'zustand'
import { createJSONStorage, persist } from 'zustand/middleware'
import type { ValueUnit } from '../../core/view/values'

export const SURROUNDS = { dim: '#3a3a3a', grey: '#777777', black: '#000000', white: '#ffffff' } as const
export const SURROUND_TITLES = { dim: 'Dim', grey: 'Middle grey', black: 'Black', white: 'White' } as const
export type Surround = keyof typeof SURROUNDS

/** Of which part of the picture the spread of brightness is shown. */
export const SCOPES = { off: 'Off', mend: 'Mend', view: 'In view' } as const
export type ScopeRegion = keyof typeof SCOPES

interface LookChoice {
  readonly surround: Surround
  readonly unit: ValueUnit
  readonly scopes: ScopeRegion
  choose(part: Partial<Pick<LookChoice, 'surround' | 'unit' | 'scopes'>>): void
}

export const useLookChoice = create<LookChoice>()(
  persist((set) => ({ surround: 'dim', unit: 'code', scopes: 'off', choose: (part) => set(part) }), {
    name: 'fillagrant-look',
    storage: createJSONStorage(() => localStorage),
    partialize: ({ surround, unit, scopes }) => ({ surround, unit, scopes }),
    // The server knows of none: it is read once the page stands.
    skipHydration: true,
  }),
)
