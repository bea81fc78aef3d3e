/** The snags that finished frames show, each frame looked at when it has changed. */
import { snagsOfMeasures, type Snag } from '../../core/snags/snags'
import type { Frame } from '../../core/time'
import type { FrameState } from '../preview/frameState'

interface Looked {
  readonly at: FrameState
  readonly before: FrameState
  readonly snags: readonly Snag[]
}

export class FrameSnags {
  readonly #stateAt: (frame: Frame) => FrameState
  readonly #looked = new Map<Frame, Looked>()

  constructor(stateAt: (frame: Frame) => FrameState) {
    this.#stateAt = stateAt
  }

  at(frame: Frame): readonly Snag[] {
    const [at, before] = [this.#stateAt(frame), this.#stateAt(frame - 1)]
    const known = this.#looked.get(frame)
    if (known?.at === at && known.before === before) return known.snags
    const snags =
      at.stage === 'full'
        ? snagsOfMeasures(at.mended!.measures, frame, before.stage === 'full' ? before.mended!.measures : [])
        : NONE
    this.#looked.set(frame, { at, before, snags })
    return snags
  }
}

const NONE: readonly Snag[] = []
