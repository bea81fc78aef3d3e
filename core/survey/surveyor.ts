/** What looks at a clip frame by frame and says at the end what it has found. */
import type { Samples } from '../image/samples'

export interface Surveyor<T> {
  /** The next frame; it is not to be changed afterwards. @throws RangeError when it has another shape than the clip. */
  add(frame: Samples): void
  /** @throws RangeError when there was no frame. */
  finish(): T
}
