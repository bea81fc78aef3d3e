/** When a draft of a frame is worth making. */
import { findFill } from '../../core/fill/registry'
import { isActiveAt } from '../../core/plan/placedArea'
import type { ShotDocument } from '../../core/plan/shotDocument'
import type { Frame } from '../../core/time'

const AFTER_MS = 60
const SOON_MS = 400
const LATE = 1.3

/** A draft is asked for after a moment; where full results have been coming soon, only when one is late. */
export class DraftDelay {
  readonly #fixedMs: number | undefined
  #fullMs = Infinity

  /** @param fixedMs  Always so long; else it follows what full results take. */
  constructor(fixedMs?: number) {
    this.#fixedMs = fixedMs
  }

  /** A full result has come. @param ms  Since it was asked for. */
  took(ms: number): void {
    this.#fullMs = ms
  }

  get ms(): number {
    return this.#fixedMs ?? (this.#fullMs < SOON_MS ? Math.max(AFTER_MS, LATE * this.#fullMs) : AFTER_MS)
  }
}

/** Whether any mend of a frame has a draft that comes sooner than its full result. */
export const hasDraft = (document: ShotDocument | null, frame: Frame): boolean =>
  (document?.mends ?? []).some(
    (mend) => isActiveAt(mend, frame) && findFill(mend.fill.methodId)?.hasDraft === true,
  )
