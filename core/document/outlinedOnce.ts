/** What is missing of a mend whose thing goes about, though it was outlined on one frame only. */
import type { Area, KeyedArea } from './areas'
import type { Mend } from './mend'

/** Whether a thing was outlined on one frame and its area stays there on all others. */
export const isOutlinedOnce = ({ kind, span }: Mend, area: Area): area is KeyedArea =>
  kind === 'object' &&
  area.role === 'cover' &&
  area.shape !== 'matte' &&
  area.shape !== 'path' &&
  area.follow === null &&
  area.keys.length === 1 &&
  span.lastFrame > span.firstFrame
