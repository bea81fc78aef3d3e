/** The layers that another frame shows, in kernel memory: which places show another layer than the one they are read through. */
import type { Matrix3 } from '../geometry/transform'
import { kernels } from '../kernels/module'
import type { KernelScope } from '../kernels/memory'
import { layerAt, type LayerMap } from '../scene/layerMap'
import type { KernelPlaces } from './places'

export interface FrameLayers {
  readonly matrices: number
  readonly hiddenBy: number
  readonly cells: number
  readonly map: LayerMap
}

/** Layers that move alike by less than this here need not be told from each other. */
const ALIKE_PX = 1.5

export const frameLayersBytes = (map: LayerMap | null | undefined, layers: number): number =>
  map ? map.cells.length + 80 * layers + 256 : 0

export function openFrameLayers(
  scope: KernelScope,
  map: LayerMap,
  matrices: readonly Matrix3[],
): FrameLayers {
  return {
    matrices: scope.pointerTo(Float64Array.from(matrices.flat())),
    hiddenBy: scope.pointerTo(Uint8Array.from(map.hiddenBy, bitsOf)),
    cells: scope.pointerTo(map.cells),
    map,
  }
}

/** Scenes have eight layers at the most; what is not known is none of them. */
const bitOf = (layer: number): number => (layer < 8 ? 1 << layer : 0)
const bitsOf = (layers: readonly number[]): number => layers.reduce((bits, layer) => bits | bitOf(layer), 0)

/** Marks places that show another layer than the one they are to be read through; `doubts` gets 1 for each that may. */
export function markOtherLayers(
  layers: FrameLayers,
  layer: number,
  places: KernelPlaces,
  kept: number,
  doubts: number,
): void {
  const { cellPx, firstCol, firstRow, cols, rows } = layers.map
  // prettier-ignore
  kernels().markOtherLayers(
    kept, doubts, places.xs, places.ys, places.count, layer, layers.matrices, layers.hiddenBy,
    layers.cells, cellPx, firstCol, firstRow, cols, rows, ALIKE_PX,
  )
}

/** Stands in `kept` where a layer further back is seen, or what this one cannot be. */
export const BEHIND_SEEN = -2

/** What the scene says of pixels of a crop: their layer; layer 0 where it has only one. */
export function layersOfPixels(
  map: LayerMap | null | undefined,
  pixels: Int32Array,
  { col, row, width }: { readonly col: number; readonly row: number; readonly width: number },
): Uint8Array {
  const out = new Uint8Array(pixels.length)
  if (!map) return out
  for (let k = 0; k < out.length; k++) {
    const down = (pixels[k]! / width) | 0
    out[k] = layerAt(map, col + pixels[k]! - down * width + 0.5, row + down + 0.5)
  }
  return out
}
