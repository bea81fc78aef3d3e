/** When a draft of a frame is worth making. */
import { findFill } from '../../core/fill/registry'
import { isActiveAt } from '../../core/plan/placedArea'
import type { ShotDocument } from '../../core/plan/shotDocument'
import type { Frame } from '../../core/time'

const AFTER_MS = 60
/** Before anything has come: what is stored comes by then, and what is not finds workers that have never worked. */
const FIRST_AFTER_MS = 1000
const SOON_MS = 400
const LATE = 1.3

/** A draft is asked for after a moment; where full results have been coming soon, only when one is late. */
export class DraftDelay {
  readonly #fixedMs: number | undefined
  #fullMs: number | null = null

  /** @param fixedMs  Always so long; else it follows what full results take. */
  constructor(fixedMs?: number) {
    this.#fixedMs = fixedMs
  }

  /** A full result has come. @param ms  Since it was asked for. */
  took(ms: number): void {
    this.#fullMs = ms
  }

  get ms(): number {
    const fullMs = this.#fullMs
    if (this.#fixedMs !== undefined) return this.#fixedMs
    if (fullMs === null) return FIRST_AFTER_MS
    return fullMs < SOON_MS ? Math.max(AFTER_MS, LATE * fullMs) : AFTER_MS
  }
}

/** Whether any mend of a frame has a draft that comes sooner than its full result. */
export const hasDraft = (document: ShotDocument | null, frame: Frame): boolean =>
  (document?.mends ?? []).some(
    (mend) => isActiveAt(mend, frame) && findFill(mend.fill.methodId)?.hasDraft === true,
  )
