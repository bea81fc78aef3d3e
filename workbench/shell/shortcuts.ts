/** Every key of the stages on a shot, as they come: the sheets, the handlers and the tests read these lists. Anyone may change them in their browser. */
export interface Shortcut<Id extends string = string> {
  readonly id: Id
  /** As the key listener writes them. */
  readonly keys: readonly string[]
  readonly shown: string
  readonly words: string
}

/** Where one looks, and the history: the same on every stage. */
const COMMON = [
  { id: 'play', keys: ['Space'], shown: 'Space', words: 'Play or pause' },
  { id: 'back', keys: ['ArrowLeft'], shown: '←', words: 'Back one frame' },
  { id: 'on', keys: ['ArrowRight'], shown: '→', words: 'On one frame' },
  { id: 'backTen', keys: ['Shift+ArrowLeft'], shown: 'Shift ←', words: 'Back ten frames' },
  { id: 'onTen', keys: ['Shift+ArrowRight'], shown: 'Shift →', words: 'On ten frames' },
  { id: 'first', keys: ['Home'], shown: 'Home', words: 'First frame' },
  { id: 'last', keys: ['End'], shown: 'End', words: 'Last frame' },
  { id: 'rangeFrom', keys: ['q'], shown: 'Q', words: 'Play from this frame on' },
  { id: 'rangeTo', keys: ['w'], shown: 'W', words: 'Play up to this frame' },
  { id: 'rangeAll', keys: ['Shift+q'], shown: 'Shift Q', words: 'Play all frames' },
  { id: 'alone', keys: ['f'], shown: 'F', words: 'The picture alone, and back' },
  { id: 'goTo', keys: ['$mod+g'], shown: 'Ctrl G', words: 'Type a frame or a timecode to go to' },
  { id: 'overlays', keys: ['g'], shown: 'G', words: 'Hide or show guides' },
  { id: 'plate', keys: ['p'], shown: 'P (hold)', words: 'Show the plate' },
  {
    id: 'plateLatch',
    keys: ['Shift+p'],
    shown: 'Shift P',
    words: 'Keep the plate shown, or the mends again',
  },
  { id: 'fit', keys: ['0'], shown: '0', words: 'Fit the picture' },
  { id: 'full', keys: ['1'], shown: '1', words: '100 %' },
  { id: 'zoomIn', keys: ['+', 'Shift++', '='], shown: '+', words: 'Zoom in' },
  { id: 'zoomOut', keys: ['-'], shown: '−', words: 'Zoom out' },
  { id: 'undo', keys: ['$mod+z'], shown: 'Ctrl Z', words: 'Undo' },
  { id: 'redo', keys: ['$mod+Shift+z', '$mod+y'], shown: 'Ctrl Shift Z', words: 'Redo' },
] as const satisfies readonly Shortcut[]
export type CommonShortcutId = (typeof COMMON)[number]['id']

/** Plate and result together. */
const COMPARING = [
  {
    id: 'compareWipe',
    keys: ['2'],
    shown: '2',
    words: 'Wipe over the plate, or what else is compared with; held: as long as held',
  },
  {
    id: 'compareBeside',
    keys: ['3'],
    shown: '3',
    words: 'Both side by side; held: as long as held',
  },
  { id: 'compareFlip', keys: ['4'], shown: '4', words: 'Flip both; held: as long as held' },
  {
    id: 'compareDifference',
    keys: ['5'],
    shown: '5',
    words: 'Their difference; held: as long as held',
  },
  {
    id: 'compareMatte',
    keys: ['6'],
    shown: '6',
    words: 'How far mends cover the picture; held: as long as held',
  },
  {
    id: 'compareSeen',
    keys: ['7'],
    shown: '7',
    words: 'How often other frames saw what was gathered; held: as long as held',
  },
] as const satisfies readonly Shortcut[]

/** The Mend stage. */
export const SHORTCUTS = [
  { id: 'newMend', keys: ['n'], shown: 'N', words: 'New mend' },
  ...COMPARING,
  ...COMMON,
  { id: 'pinBack', keys: [','], shown: ',', words: 'To the pin before' },
  { id: 'pinOn', keys: ['.'], shown: '.', words: 'To the next pin' },
  { id: 'snagBack', keys: ['PageUp'], shown: 'Page ↑', words: 'To the snag before' },
  { id: 'snagOn', keys: ['PageDown'], shown: 'Page ↓', words: 'To the next snag' },
  { id: 'finish', keys: ['Enter'], shown: 'Enter', words: 'End the drawing' },
  { id: 'cling', keys: ['c'], shown: 'C', words: 'Let the path cling to its line' },
  { id: 'suggest', keys: ['s'], shown: 'S', words: 'Suggest places to copy from; again: the next best' },
  { id: 'hold', keys: ['k'], shown: 'K', words: 'Hold the followed thing, or the background, still' },
  { id: 'toggle', keys: ['o'], shown: 'O', words: 'Selected mends on or off' },
  { id: 'duplicate', keys: ['d'], shown: 'D', words: 'Duplicate the selected mend' },
  { id: 'delete', keys: ['Delete'], shown: 'Del', words: 'Delete the selected mends, pins or point' },
  { id: 'tipSmaller', keys: ['['], shown: '[', words: 'A smaller brush' },
  { id: 'tipLarger', keys: [']'], shown: ']', words: 'A larger brush' },
  { id: 'rename', keys: ['F2'], shown: 'F2', words: 'Rename the selected mend' },
  { id: 'escape', keys: ['Escape'], shown: 'Esc', words: 'Stop drawing or following; let go' },
  { id: 'help', keys: ['?', 'Shift+?'], shown: '?', words: 'This sheet' },
] as const satisfies readonly Shortcut[]
export type ShortcutId = (typeof SHORTCUTS)[number]['id']

/** The Survey stage. */
export const SURVEY_SHORTCUTS = [
  { id: 'scan', keys: ['s'], shown: 'S', words: 'Scan the shot' },
  { id: 'findBack', keys: ['ArrowUp'], shown: '↑', words: 'To the find above' },
  { id: 'findOn', keys: ['ArrowDown'], shown: '↓', words: 'To the find below' },
  { id: 'accept', keys: ['Enter'], shown: 'Enter', words: 'Accept the selected find' },
  { id: 'acceptSure', keys: ['Shift+Enter'], shown: 'Shift Enter', words: 'Accept all that are sure enough' },
  {
    id: 'dismiss',
    keys: ['Backspace', 'Delete'],
    shown: 'Backspace',
    words: 'Dismiss the selected find; again: take it back',
  },
  { id: 'close', keys: ['z'], shown: 'Z', words: 'Look at the selected find closely' },
  ...COMMON,
  { id: 'escape', keys: ['Escape'], shown: 'Esc', words: 'Let go; the plain plate' },
  { id: 'help', keys: ['?', 'Shift+?'], shown: '?', words: 'This sheet' },
] as const satisfies readonly Shortcut[]
export type SurveyShortcutId = (typeof SURVEY_SHORTCUTS)[number]['id']

/** The Proof stage. */
export const PROOF_SHORTCUTS = [
  { id: 'measure', keys: ['m'], shown: 'M', words: 'Measure what has changed' },
  { id: 'snagBack', keys: ['PageUp'], shown: 'Page ↑', words: 'To the snag above in the list' },
  { id: 'snagOn', keys: ['PageDown'], shown: 'Page ↓', words: 'To the snag below in the list' },
  { id: 'note', keys: ['n'], shown: 'N', words: 'Write a note on this frame' },
  ...COMPARING,
  ...COMMON,
  { id: 'escape', keys: ['Escape'], shown: 'Esc', words: 'Let go' },
  { id: 'help', keys: ['?', 'Shift+?'], shown: '?', words: 'This sheet' },
] as const satisfies readonly Shortcut[]
export type ProofShortcutId = (typeof PROOF_SHORTCUTS)[number]['id']
