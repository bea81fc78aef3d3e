import { useEffect } from 'react'
import { tinykeys } from 'tinykeys'
import { keysOf, useKeyChoices } from './keyChoices'
import type { Shortcut } from './shortcuts'

export type ShortcutHandlers<Id extends string> = Readonly<Record<Id, () => void>>

/** Typing in a field is typing; only undo and escape reach through to nothing there. */
const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))

/** Widgets that use the arrows, the space bar or Home and End themselves. */
const usesKeyItself = (event: KeyboardEvent): boolean => {
  const target = event.target instanceof Element ? event.target : null
  if (target?.closest('[role="menu"], [role="dialog"]')) return true
  const role = target?.getAttribute('role')
  if (event.key === 'Enter' && (target?.tagName === 'BUTTON' || target?.tagName === 'A' || role === 'button'))
    return true
  if (event.key === ' ')
    return target?.tagName === 'BUTTON' || role === 'button' || role === 'switch' || role === 'radio'
  if (/^(Arrow|Home|End)/.test(event.key))
    return (role === 'slider' && target?.getAttribute('aria-label') !== 'Frame') || role === 'radio'
  return false
}

/** Listens for a stage's keys. @param shortcuts  Its list, always the same one. */
export function useShortcuts<Id extends string>(
  shortcuts: readonly Shortcut<Id>[],
  handlers: ShortcutHandlers<Id>,
): void {
  const chosen = useKeyChoices((choices) => choices.chosen)
  useEffect(() => void useKeyChoices.persist.rehydrate(), [])
  useEffect(() => {
    const bindings = Object.fromEntries(
      shortcuts.flatMap((shortcut) =>
        keysOf(shortcut, chosen).map((key) => [
          key,
          (event: KeyboardEvent) => {
            if (isTyping(event.target) || usesKeyItself(event)) return
            event.preventDefault()
            handlers[shortcut.id]()
          },
        ]),
      ),
    )
    return tinykeys(window, bindings)
  }, [chosen, handlers, shortcuts])
}
