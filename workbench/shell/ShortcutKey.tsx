import { Key } from './Key'
import { shownOf, useKeyChoices } from './keyChoices'
import { SHORTCUTS, SURVEY_SHORTCUTS, type ShortcutId, type SurveyShortcutId } from './shortcuts'

/** The key of a shortcut as it is now. */
export function ShortcutKey({ id }: { readonly id: ShortcutId | SurveyShortcutId }) {
  const chosen = useKeyChoices((choices) => choices.chosen)
  const shortcut = [...SHORTCUTS, ...SURVEY_SHORTCUTS].find((one) => one.id === id)!
  return <Key>{shownOf(shortcut, chosen).replace(' (hold)', '')}</Key>
}
