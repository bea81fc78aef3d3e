/** What is missing of a mend whose thing goes about, though it was outlined on some frames only. */
import type { Area, KeyedArea } from './areas'
import { isOfThing } from './followedThing'
import { roams } from './kinds'
import type { Mend } from './mend'

/** Whether a thing was outlined on some frames, and its area goes evenly between them, or stays, on all others. */
export const leavesGaps = ({ kind, span }: Mend, area: Area): area is KeyedArea =>
  roams(kind) &&
  area.role === 'cover' &&
  isOfThing(area) &&
  area.follow === null &&
  area.keys.length <= (span.lastFrame - span.firstFrame) / 2
