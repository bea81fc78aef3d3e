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
