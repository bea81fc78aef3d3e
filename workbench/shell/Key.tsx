import type { ReactNode } from 'react'

/** A key of the keyboard, as it is shown in words and on buttons. */
export function Key({ children, isOnThread = false }: { children: ReactNode; isOnThread?: boolean }) {
  return (
    <kbd
      className={`rounded-xs border px-1 font-mono text-xs ${isOnThread ? 'border-well/60' : 'border-soft/60'}`}
    >
      {children}
    </kbd>
  )
}
