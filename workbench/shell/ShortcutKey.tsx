import { Key } from './Key'
import { shownOf, useKeyChoices } from './keyChoices'
import {
  PROOF_SHORTCUTS,
  SHORTCUTS,
  SURVEY_SHORTCUTS,
  type ProofShortcutId,
  type ShortcutId,
  type SurveyShortcutId,
} from './shortcuts'

/** The key of a shortcut as it is now. */
export function ShortcutKey({ id }: { readonly id: ShortcutId | SurveyShortcutId | ProofShortcutId }) {
  const chosen = useKeyChoices((choices) => choices.chosen)
  const shortcut = [...SHORTCUTS, ...SURVEY_SHORTCUTS, ...PROOF_SHORTCUTS].find((one) => one.id === id)!
  return <Key>{shownOf(shortcut, chosen).replace(' (hold)', '')}</Key>
}
