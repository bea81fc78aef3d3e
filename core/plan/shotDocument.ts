import type { Mend } from '../document/mend'
import type { Tracks } from '../document/tracks'
import type { Size } from '../image/rect'
import type { Scene } from '../scene/scene'
import type { FrameRange } from '../time'

/** All that is said of a shot: what each of its frames is planned from. */
export interface ShotDocument {
  /** In the order of the stack. */
  readonly mends: readonly Mend[]
  readonly tracks: Tracks
  /** The frames and the size that there are: nothing else is looked at. */
  readonly plate: FrameRange & Size
  /** Null as long as it has not been worked out. */
  readonly scene: Scene | null
}

/** Whether two documents are made of the same records, so that all of their frames are the same. */
export const isSameDocument = (one: ShotDocument, other: ShotDocument): boolean =>
  one.plate === other.plate &&
  one.scene === other.scene &&
  areSame(one.mends, other.mends) &&
  areSame([...one.tracks.values()], [...other.tracks.values()])

const areSame = (some: readonly unknown[], others: readonly unknown[]): boolean =>
  some.length === others.length && some.every((one, i) => one === others[i])
