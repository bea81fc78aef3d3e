export { convolveRows, convolveColumns } from './convolve'
export { gatherBilinear, gatherBicubic, warpProjective } from './sample'
export { integersToFloats8, integersToFloats16 } from './integers'
export { alignStep, searchShift, planeFromSamples, halvePlane } from './align'
export { membraneSweep, membraneApplyDot, membraneStep, membraneRestrict, membraneProlong, membraneBlend, membraneDot } from './membrane'
export { medianCodes, medianNodes } from './median'
export { patchDistances, patchSearch, patchShifts, patchVote } from './patches'
export { grainWhite } from './grain'
export { readThrough, joinReadings } from './gather'
export { exp, log, pow, sin, cos, atan2 } from './exact'

/** First byte that the loader may hand out; below it lies the compiler's own static data. */
export function heapBase(): usize { return __heap_base }
