/** From the distance to an area's drawn edge to its coverage: grow, feather inside and outside. */
import { withKernelMemory } from '../kernels/memory'
import { kernels } from '../kernels/module'

export interface Edge {
  /** How far coverage takes to fall off outside the area, in px from 0. */
  readonly featherOutPx: number
  /** How far inside the area it begins to fall, in px from 0. */
  readonly featherInPx: number
  /** Widens the area on each side, or narrows it below 0, in px. */
  readonly growPx: number
}

/** One entry per pixel near an area, in reading order. */
export interface EdgeField {
  readonly count: number
  /** Index `row * rect.width + col` inside the rectangle. */
  readonly pixels: Int32Array
  /** Distance of the pixel centre from the drawn edge in px; above 0 outside. */
  readonly edges: Float32Array
}

/** How far outside the drawn edge coverage reaches, in px. */
export const outerPxOf = ({ featherOutPx, featherInPx, growPx }: Edge): number =>
  growPx + featherOutPx + 0.5 * Math.max(0, 1 - featherOutPx - featherInPx)

/** How far from the drawn edge, to either side, coverage is neither 0 nor 1: distances must be known as far. */
export const reachPxOf = (edge: Edge): number =>
  Math.max(outerPxOf(edge), edge.featherInPx - edge.growPx, 0) + 1

/**
 * How far outside the drawn edge the plate begins to be trusted: a third into the outer feather. Nearer,
 * coverage is above three quarters and what lies there is taken for the thing itself.
 */
export const rimPxOf = (edge: Edge): number => outerPxOf(edge) - (2 / 3) * edge.featherOutPx

/**
 * Coverage at distances from the drawn edge: 1 inside, falling smoothly to 0 over the feather. Without
 * feather it falls linearly over the one pixel that the edge crosses. Source: common practice.
 * @param beyonds  How far each entry lies past an end that is cut off sharp, px; below 0 before it.
 */
export function coverageFromEdges(
  { count, edges }: EdgeField,
  edge: Edge,
  beyonds: Float32Array | null = null,
): Float32Array {
  const soft = edge.featherInPx + edge.featherOutPx
  const inner = edge.growPx - edge.featherInPx - 0.5 * Math.max(0, 1 - soft)
  // Four entries are worked out at once: the last may reach past the others.
  return withKernelMemory(12 * (count + 4) + 4096, (scope) => {
    const distances = scope.floats(count + 4)
    distances.set(edges)
    const past = beyonds && scope.floats(count + 4)
    past?.set(beyonds!)
    const coverage = scope.floats(count + 4)
    // prettier-ignore
    kernels().coverageOfEdges(
      distances.byteOffset, past?.byteOffset ?? 0, count, inner, outerPxOf(edge), soft < 1, coverage.byteOffset,
    )
    return coverage.slice(0, count)
  })
}
