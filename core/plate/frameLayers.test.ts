import { bytesAt, floatsAt, placesAt, ROOMY_BYTES } from '../../tests/fixtures/samplePlaces'
import { IDENTITY, translationBy, type Matrix3 } from '../geometry/transform'
import { withKernelMemory } from '../kernels/memory'
import { kernels } from '../kernels/module'
import { cellsFromLabels, type LayerMap } from '../scene/layerMap'
import { layersOfPixels, markOtherLayers, openFrameLayers } from './frameLayers'

const [COLS, ROWS] = [80, 10]
/** Cells of 4 px: wall (0) up to x = 80, a column (1) in front up to 160, then wall again. */
const labels = Uint8Array.from({ length: COLS * ROWS }, (_, cell) =>
  cell % COLS >= 20 && cell % COLS < 40 ? 1 : 0,
)
const map: LayerMap = {
  cellPx: 4,
  firstCol: 0,
  firstRow: 0,
  cols: COLS,
  rows: ROWS,
  cells: cellsFromLabels(labels, COLS, ROWS, 4),
  hiddenBy: [[1], []],
}
const MOTIONS = [IDENTITY, translationBy(10, 0)]
const XS = [20, 76, 84, 90, 120, 150, 170, 250]

function mark(layer: number, motions: readonly Matrix3[] = MOTIONS) {
  return withKernelMemory(ROOMY_BYTES, (scope) => {
    const places = placesAt(
      scope,
      XS.map((x) => [x, 20] as const),
    )
    const [kept, doubts] = [scope.floats(places.count).byteOffset, scope.reserve(places.count)]
    markOtherLayers(openFrameLayers(scope, map, motions), layer, places, kept, doubts)
    return { kept: [...floatsAt(kept, XS.length)], doubts: [...bytesAt(doubts, XS.length)] }
  })
}

test('of the wall, what shows the column is shut; near its edge it is only doubted, on either side of it', () => {
  expect(mark(0)).toEqual({ kept: [1, 1, 1, 1, -1, 1, 1, 1], doubts: [0, 1, 1, 1, 0, 1, 0, 0] })
})

test('of the column, wall where it should be speaks against it; nothing in front of it makes its own doubtful', () => {
  // Places lie 10 px further right there.
  expect(mark(1)).toEqual({ kept: [-2, 1, 1, 1, 1, 1, -2, -2], doubts: [0, 0, 0, 0, 0, 1, 0, 0] })
})

test('where both layers move alike nothing is shut', () => {
  expect(mark(0, [IDENTITY, translationBy(1, 0)]).kept.every((kept) => kept === 1)).toBe(true)
})

test('pixels are told their layer by the cell that they lie in; without a map all belong to the first', () => {
  const pixels = Int32Array.of(0, 9, 10)
  const crop = { col: 70, row: 8, width: 20 }
  expect([...layersOfPixels(map, pixels, crop)]).toEqual([0, 0, 1])
  expect([...layersOfPixels(null, pixels, crop)]).toEqual([0, 0, 0])
})

test('doubtful readings are shut where three frames show the place beyond doubt, and stay where fewer do', () => {
  const [frames, stride] = [4, 8]
  const shut = withKernelMemory(ROOMY_BYTES, (scope) => {
    const kept = scope.floats(frames * stride).fill(1).byteOffset
    const doubts = scope.pointerTo(
      Uint8Array.from({ length: frames * stride }, (_, i) => {
        const [frame, place] = [Math.floor(i / stride), i % stride]
        return frame === 3 || (frame === 2 && place > 3) ? 1 : 0
      }),
    )
    kernels().maskUncertain(kept, doubts, frames, stride, stride, 3)
    return [...floatsAt(kept, frames * stride)]
  })
  expect(shut.slice(3 * stride)).toEqual([-1, -1, -1, -1, 1, 1, 1, 1])
  expect(shut.slice(2 * stride, 3 * stride).every((kept) => kept === 1)).toBe(true)
})
