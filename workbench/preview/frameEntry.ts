/** What is there of one frame, what is being made of it, and whether that will do. */
import { closePieces, type Mended } from './mendedPieces'
import type { FrameState } from './frameState'

export interface Work {
  readonly version: number
  readonly stop: AbortController
  /** Somebody looks at it. */
  isUrgent: boolean
  /** Of the full result, 0 to 1. */
  progress: number
}

export interface Entry {
  mended: Mended | null
  work: Work | null
  /** The version of the mends with which it failed: tried again only when the playhead comes to it. */
  failedVersion: number | null
}

/** What is asked of a frame's pieces now. */
export interface Asked {
  /** Of the mends as they are. */
  readonly version: number
  /** What the frame is called with them; undefined while that is not known. */
  readonly name: string | undefined
  /** A value is being dragged: what is there need not be measured. */
  readonly isPassing: boolean
  readonly showsSeen: boolean
  readonly tellsCovered: boolean
}

export const emptyEntry = (): Entry => ({ mended: null, work: null, failedVersion: null })

/** Whether a frame's pieces are right, or it is yet to be known whether they are. */
export function isSettled({ mended, failedVersion }: Entry, asked: Asked): boolean {
  if (failedVersion === asked.version) return true
  if (mended === null || (mended.isPassing && !asked.isPassing)) return false
  if ((asked.showsSeen && !mended.showsSeen) || (asked.tellsCovered && !mended.tellsCovered)) return false
  return asked.name === undefined || (asked.name === mended.name && !mended.isDraft)
}

export function stateOf(
  entry: Entry | undefined,
  plate: ImageBitmap | null,
  name: string | undefined,
): FrameState {
  const mended = entry?.mended ?? null
  const isCurrent = mended !== null && name === mended.name
  const stage = !mended ? 'none' : !isCurrent ? 'older' : mended.isDraft ? 'draft' : 'full'
  return { plate, mended, stage, progress: entry?.work?.progress ?? null }
}

/** Nobody wants any of it any more. */
export function closeEntry({ work, mended }: Entry): void {
  work?.stop.abort()
  closePieces(mended)
}
