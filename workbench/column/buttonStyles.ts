/** Classes that several parts of the column share. */
export const SMALL_BUTTON =
  'shrink-0 rounded-sm border border-line px-2 py-0.5 text-ink hover:bg-lifted disabled:text-soft'
export const MENU = 'z-20 max-h-96 w-60 overflow-y-auto rounded-sm border border-line bg-raised p-1 shadow-xl'
export const MENU_ITEM =
  'cursor-pointer rounded-xs px-2 py-1 outline-none data-disabled:text-soft data-highlighted:bg-lifted'
