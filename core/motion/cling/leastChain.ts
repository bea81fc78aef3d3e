import { kernels } from '../../kernels/module'
import { withKernelMemory } from '../../kernels/memory'

/** Columns by which a chain may move from row to row: 27° against the drawn direction. */
const MAX_STEP = 2

/**
 * The chain of places, one a row, with the least sum of costs and of `stepCost` times the square of each step.
 * Source: Amini, Weymouth and Jain, "Using dynamic programming for solving variational problems in vision", IEEE PAMI 12(9), 1990.
 * @param costs  Places of the first row, then of the second one, and so on.
 */
export function leastChain(costs: Float32Array, places: number, rows: number, stepCost: number): Int32Array {
  return withKernelMemory(costs.byteLength + 8 * places + places * rows + 4 * rows + 512, (scope) => {
    const [sums, came, chain] = [
      scope.reserve(8 * places),
      scope.reserve(places * rows),
      scope.reserve(4 * rows),
    ]
    kernels().leastChain(scope.pointerTo(costs), places, rows, stepCost, MAX_STEP, sums, came, chain)
    return new Int32Array(kernels().memory.buffer, chain, rows).slice()
  })
}

/** 1 for each row that is used, as kernels take them. */
export const usedRows = (rows: number, isUsed: (row: number) => boolean): Uint8Array =>
  Uint8Array.from({ length: rows }, (_, row) => (isUsed(row) ? 1 : 0))
