import type { ReadMatte } from '../matte/pictureMatte'
import type { PlacedShape } from '../plan/placedArea'

/** A shape with what was read for it. */
export type ReadShape =
  Exclude<PlacedShape, { shape: 'matte' }> | { readonly shape: 'matte'; readonly matte: ReadMatte }
