/** How mends cover a picture: the mattes that every method is given. */
import type { Mend } from '../core/document/mend'
import type { Tracks } from '../core/document/tracks'
import { coverShapes, HARD } from '../core/evaluate/coverage'
import type { ReadShape } from '../core/evaluate/readShape'
import { wholePicture, type Size } from '../core/image/rect'
import { outerPxOf } from '../core/matte/edge'
import { isActiveAt, placeArea } from '../core/plan/placedArea'

/** Of every pixel how far it is covered on a frame, holdouts taken out. Mattes of files count for nothing. */
export function coverageOn(mends: readonly Mend[], tracks: Tracks, frame: number, size: Size): Float32Array {
  const all = new Float32Array(size.width * size.height)
  for (const mend of mends.filter((one) => isActiveAt(one, frame))) {
    const own = new Float32Array(all.length)
    for (const role of ['cover', 'holdout'] as const) {
      const edge = role === 'cover' ? mend.finish : HARD
      for (const area of mend.areas.filter((one) => one.role === role)) {
        const { shape } = placeArea(area, tracks, frame)
        if (shape.shape === 'matte') continue
        const read: ReadShape = shape
        const { field, coverage } = coverShapes(
          [read],
          wholePicture(size),
          Math.max(1, outerPxOf(edge)),
          edge,
        )
        for (let i = 0; i < field.count; i++) {
          const at = field.pixels[i]!
          own[at] = role === 'cover' ? Math.max(own[at]!, coverage[i]!) : own[at]! * (1 - coverage[i]!)
        }
      }
    }
    for (let i = 0; i < all.length; i++) all[i] = Math.max(all[i]!, own[i]!)
  }
  return all
}
