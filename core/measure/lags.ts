import type { Frame } from '../time'

/** How far off the frames are that a frame is compared with: near enough that the place is still in the picture, far enough that a fault of some frames is not on all of them. */
const LAGS = [-12, -8, -4, 4, 8, 12] as const
/** Frames on either side that must be at hand. */
export const FARTHEST_LAG = 12

/** The frames that a frame is compared with, as far as there are any. */
export const lagsAround = (frame: Frame, firstFrame: Frame, lastFrame: Frame): Frame[] =>
  LAGS.map((lag) => frame + lag).filter((other) => other >= firstFrame && other <= lastFrame)

/** Frames between which an area is expected where it is asked: it goes on as it has. */
export const expectedAround = (frame: Frame): readonly Frame[] => [frame - 4, frame + 4]
