/** Whether frames are filled before they are looked at: kept in this browser. */
import { create } from 'zustand'
import { createJSONStorage, persist } from 'zustand/middleware'

interface AheadChoice {
  /** Off: a frame is filled when it is come to, and this computer has its cores for other work. Played frames always are. */
  readonly fillsAhead: boolean
  fillAhead(isOn: boolean): void
}

export const useAheadChoice = create<AheadChoice>()(
  persist(
    (set) => ({
      fillsAhead: true,
      fillAhead: (fillsAhead) => set({ fillsAhead }),
    }),
    {
      name: 'fillagrant-ahead',
      storage: createJSONStorage(() => localStorage),
      partialize: ({ fillsAhead }) => ({ fillsAhead }),
      // The server knows of none: it is read once the page stands.
      skipHydration: true,
    },
  ),
)
