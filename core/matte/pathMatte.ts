import { createPlane, type Matte } from '../image/raster'
import type { Size } from '../image/rect'
import type { PathField } from './pathField'

export interface Edge {
  /** How far coverage takes to fall off outside the area, in px from 0. */
  readonly featherPx: number
  /** Widens the area on each side, or narrows it below 0, in px. */
  readonly growPx: number
}

/** How far outside the drawn width coverage reaches, in px. */
export const outerPxOf = ({ featherPx, growPx }: Edge): number => growPx + featherPx + 0.5 * Math.max(0, 1 - featherPx)

/**
 * How far outside the drawn width the plate begins to be trusted: a third into the feather. Nearer,
 * coverage is above three quarters and what lies there is taken for the thing itself.
 */
export const rimPxOf = (edge: Edge): number => outerPxOf(edge) - (2 / 3) * edge.featherPx

/**
 * Coverage of a path: 1 across its width, falling smoothly to 0 over the feather outside it.
 *
 * Without feather the edge falls linearly over the one pixel that it crosses. The ends are cut off
 * sharp, whatever the feather: what the path ends at must not be touched.
 *
 * @returns One value for each entry of the field, 0 to 1. Source: common practice.
 */
export function renderPathCoverage(field: PathField, { featherPx, growPx }: Edge): Float32Array {
  const coverage = new Float32Array(field.count)
  const inner = growPx - 0.5 * Math.max(0, 1 - featherPx)
  const outer = outerPxOf({ featherPx, growPx })
  const isLinear = featherPx < 1
  for (let i = 0; i < field.count; i++) {
    const begin = field.halfWidths[i]! + inner
    const across = (Math.abs(field.distances[i]!) - begin) / (outer - inner)
    const fall = across <= 0 ? 1 : across >= 1 ? 0 : isLinear ? 1 - across : 1 - across * across * (3 - 2 * across)
    coverage[i] = fall * endCoverage(field.beyonds[i]!)
  }
  return coverage
}

// A pixel whose centre lies on the cut is half covered.
const endCoverage = (beyond: number): number => Math.min(1, Math.max(0, 0.5 - beyond))

/** Sparse coverage as a plane. */
export function matteFromCoverage(field: PathField, coverage: Float32Array, size: Size): Matte {
  const matte = createPlane(size.width, size.height)
  for (let i = 0; i < field.count; i++) matte.data[field.pixels[i]!] = coverage[i]!
  return matte
}
