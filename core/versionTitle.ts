/** What the n-th version of a shot is called, in files and on pages. */
export const versionTitle = (number: number): string => `v${String(number).padStart(3, '0')}`
