/** Every key of the Mend stage: the sheet, the handlers and the tests read this list. */
export const SHORTCUTS = [
  { id: 'newMend', keys: ['n'], shown: 'N', words: 'New mend' },
  { id: 'play', keys: ['Space'], shown: 'Space', words: 'Play or pause' },
  { id: 'back', keys: ['ArrowLeft'], shown: '←', words: 'Back one frame' },
  { id: 'on', keys: ['ArrowRight'], shown: '→', words: 'On one frame' },
  { id: 'backTen', keys: ['Shift+ArrowLeft'], shown: 'Shift ←', words: 'Back ten frames' },
  { id: 'onTen', keys: ['Shift+ArrowRight'], shown: 'Shift →', words: 'On ten frames' },
  { id: 'first', keys: ['Home'], shown: 'Home', words: 'First frame' },
  { id: 'last', keys: ['End'], shown: 'End', words: 'Last frame' },
  { id: 'pinBack', keys: [','], shown: ',', words: 'To the pin before' },
  { id: 'pinOn', keys: ['.'], shown: '.', words: 'To the next pin' },
  { id: 'plate', keys: ['\\'], shown: '\\ (hold)', words: 'Show the plate' },
  { id: 'overlays', keys: ['h'], shown: 'H', words: 'Hide or show overlays' },
  { id: 'fit', keys: ['0'], shown: '0', words: 'Fit the picture' },
  { id: 'full', keys: ['1'], shown: '1', words: '100 %' },
  { id: 'zoomIn', keys: ['+', 'Shift++', '='], shown: '+', words: 'Zoom in' },
  { id: 'zoomOut', keys: ['-'], shown: '−', words: 'Zoom out' },
  { id: 'toggle', keys: ['o'], shown: 'O', words: 'Selected mend on or off' },
  { id: 'duplicate', keys: ['d'], shown: 'D', words: 'Duplicate the selected mend' },
  { id: 'delete', keys: ['Delete'], shown: 'Del', words: 'Delete the selected mend, or the focused point' },
  { id: 'rename', keys: ['F2'], shown: 'F2', words: 'Rename the selected mend' },
  { id: 'undo', keys: ['$mod+z'], shown: 'Ctrl Z', words: 'Undo' },
  { id: 'redo', keys: ['$mod+Shift+z', '$mod+y'], shown: 'Ctrl Shift Z', words: 'Redo' },
  { id: 'escape', keys: ['Escape'], shown: 'Esc', words: 'Stop drawing, or let go of the selection' },
  { id: 'help', keys: ['?', 'Shift+?'], shown: '?', words: 'This sheet' },
] as const

export type ShortcutId = (typeof SHORTCUTS)[number]['id']
