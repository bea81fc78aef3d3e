/** What long work is told from outside, and what it tells: the same for fills, trackers, the scene and the survey. */
export interface RunContext {
  /** True once the result is no longer wanted. */
  shouldStop(): boolean
  /** How much is done. */
  onProgress?(done: number, total: number): void
  /** A draft is wanted soon, from fewer frames or coarser; the full result is asked for right after. */
  readonly isDraft?: boolean
  /** Of a value that is being dragged: nothing is measured, and nothing is stored. */
  readonly isPassing?: boolean
  /** Where the pixels of gathered areas were seen is to be shown. */
  readonly showsSeen?: boolean
  /** How far mends cover each pixel is to be told with the result. */
  readonly tellsCovered?: boolean
}
