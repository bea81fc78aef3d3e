/**
 * The guided filter with a guide of one channel: a map is averaged over squares, but not across the edges of the guide.
 * Places that are not known have no say. The loops are in `kernels/assembly/cells.ts`.
 * Sources: K. He, J. Sun and X. Tang, "Guided image filtering", ECCV 2010; for costs of labels: C. Rhemann et al., "Fast
 * cost-volume filtering for visual correspondence and beyond", CVPR 2011.
 */
import { withKernelMemory, type KernelScope } from '../kernels/memory'
import { kernels } from '../kernels/module'

export interface GuideInput {
  readonly guide: Float32Array
  readonly width: number
  readonly height: number
  readonly radiusPx: number
  /** Deviation of the guide below which it shows no edge, in its own scale. */
  readonly edgeDeviation: number
}

/**
 * @param map  To be averaged, as large as the guide. @param known  How far each place is known, 0 to 1.
 * @param min  Places known in a square below which nothing is said of its middle.
 * @returns The averaged map; Infinity where too little is known.
 */
export function guidedMean(
  { guide, width, height, radiusPx, edgeDeviation }: GuideInput,
  map: Float32Array,
  known: Float32Array,
  min: number,
): Float32Array {
  const size = width * height
  return withKernelMemory(guidedBytes(width, height) + 4 * padded(size) * 4, (scope) => {
    const put = (values: Float32Array) => {
      const at = scope.floats(padded(size)).fill(0)
      at.set(values)
      return at.byteOffset
    }
    const out = scope.floats(padded(size))
    const work = openGuided(scope, width, height)
    const floor = edgeDeviation * edgeDeviation
    // prettier-ignore
    kernels().guidedMean(
      put(guide), put(map), put(known), width, height, radiusPx, floor, min, work.maps, work.across, work.columns, out.byteOffset,
    )
    return out.slice(0, size)
  })
}

/** Maps that the kernel works with. */
const MAPS = 9

/** Whole vectors: four places are worked out at once. */
export const padded = (size: number): number => 4 * Math.ceil(size / 4)

/** What the kernel needs besides its maps, in kernel memory. */
export interface GuidedWork {
  readonly maps: number
  readonly across: number
  readonly columns: number
}

export const guidedBytes = (width: number, height: number): number =>
  4 * (MAPS + 1) * padded(width * height) + 8 * width + 1024

export const openGuided = (scope: KernelScope, width: number, height: number): GuidedWork => ({
  maps: scope.reserve(4 * MAPS * padded(width * height)),
  across: scope.reserve(4 * padded(width * height)),
  columns: scope.reserve(8 * width),
})
