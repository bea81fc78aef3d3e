/** Who writes notes and decides: typed once, kept in this browser. */
import { create } from 'zustand'
import { createJSONStorage, persist } from 'zustand/middleware'

interface Author {
  readonly name: string
  call(name: string): void
}

export const useAuthor = create<Author>()(
  persist((set) => ({ name: '', call: (name) => set({ name }) }), {
    name: 'fillagrant-author',
    storage: createJSONStorage(() => localStorage),
    partialize: ({ name }) => ({ name }),
    // The server knows of none: it is read once the page stands.
    skipHydration: true,
  }),
)
