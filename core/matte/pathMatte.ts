import { createPlane, type Matte } from '../image/raster'
import type { Size } from '../image/rect'
import { coverageFromEdges, type Edge, type EdgeField } from './edge'
import type { PathField } from './pathField'

/**
 * Coverage of a path: 1 across its width, falling to 0 over the feather beside it. The ends are cut off sharp,
 * whatever the feather: what the path ends at must not be touched.
 *
 * @returns One value for each entry of the field, 0 to 1. Source: common practice.
 */
export const renderPathCoverage = (field: PathField, edge: Edge): Float32Array =>
  coverageFromEdges(field, edge, field.beyonds)

/** Sparse coverage as a plane. */
export function matteFromCoverage(field: EdgeField, coverage: Float32Array, size: Size): Matte {
  const matte = createPlane(size.width, size.height)
  for (let i = 0; i < field.count; i++) matte.data[field.pixels[i]!] = coverage[i]!
  return matte
}
