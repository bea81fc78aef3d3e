/**
 * How the parts of a picture go from one frame to another: blocks are looked for where the picture as a whole has gone, and layers told apart
 * that each go their own way. A layer is a similarity: its zoom and turn are told with its shift. Source: J. Y. A. Wang, E. H. Adelson, "Representing moving
 * images with layers", IEEE Trans. Image Processing 3(5), 1994, one layer after the other, with Tukey's weights.
 */
import { estimateMotion } from '../../geometry/estimate'
import { apply, translationBy, type Matrix3 } from '../../geometry/transform'
import type { Plane } from '../../image/raster'
import { medianOf } from '../../image/median'
import { lowestBetween } from '../parabola'
import { rowDifference } from '../shift'

/** Side of a block, cells. */
const BLOCK = 12
/** The best place must differ less than all that were tried by so much of their mean: else the block is bare, or repeats itself. */
const MIN_DIP = 0.3
/** Blocks that stray further are no part of a layer, cells: at first, and in the end. */
const STRAY = { first: 2, last: 0.35 } as const
const ROUNDS = 8
/** A layer has so many blocks, of all that tell something: fewer are things that go their own way. */
const MIN_SHARE = 0.15
const MIN_BLOCKS = 8
const MOST_LAYERS = 2

/**
 * @param expected  Takes places of the first frame to where they are looked for in the second, cells. @param reach  How far around, cells.
 * @returns At least one; the largest first.
 */
export function sceneLayers(a: Plane, b: Plane, expected: Matrix3, reach: number): Matrix3[] {
  const [from, to]: [number[], number[]] = [[], []]
  const side = 2 * reach + 1
  const left = new Float64Array(side * side)
  for (let row = 0; row + BLOCK <= a.height; row += BLOCK) {
    for (let col = 0; col + BLOCK <= a.width; col += BLOCK) {
      const [x, y] = [col + BLOCK / 2, row + BLOCK / 2]
      const near = apply(expected, x, y)
      const way = wayOf(a, b, col, row, Math.round(near.x - x), Math.round(near.y - y), reach, left)
      if (!way) continue
      from.push(x, y)
      to.push(x + way.x, y + way.y)
    }
  }
  const count = from.length / 2
  const layers: Matrix3[] = []
  const isOpen = new Uint8Array(count).fill(1)
  while (layers.length < MOST_LAYERS) {
    const start = layers.length === 0 ? expected : middleOf(from, to, isOpen)
    const layer = start && layerFrom(start, from, to, isOpen)
    if (!layer || layer.blocks < Math.max(MIN_BLOCKS, MIN_SHARE * count)) break
    layers.push(layer.matrix)
  }
  return layers.length > 0 ? layers : [expected]
}

/** The shift that blocks of no layer have in common; null where there are too few. */
function middleOf(from: readonly number[], to: readonly number[], isOpen: Uint8Array): Matrix3 | null {
  const open = [...isOpen.keys()].filter((i) => isOpen[i] === 1)
  if (open.length < MIN_BLOCKS) return null
  const middle = (axis: 0 | 1) => medianOf(open.map((i) => to[2 * i + axis]! - from[2 * i + axis]!))
  return translationBy(middle(0), middle(1))
}

/** The layer that blocks around a first guess agree on; its blocks are no longer open. */
function layerFrom(start: Matrix3, from: readonly number[], to: readonly number[], isOpen: Uint8Array) {
  let matrix = start
  const weights = new Float64Array(isOpen.length)
  for (let round = 0; round < ROUNDS; round++) {
    const stray = STRAY.first + ((STRAY.last - STRAY.first) * round) / (ROUNDS - 1)
    for (let i = 0; i < weights.length; i++) {
      const rest = isOpen[i] === 1 ? 1 - squareOff(matrix, from, to, i) / (stray * stray) : 0
      weights[i] = rest > 0 ? rest * rest : 0
    }
    const next = estimateMotion('similarity', from, to, weights)
    if (!next) return null
    matrix = next
  }
  let blocks = 0
  for (let i = 0; i < weights.length; i++) {
    if (weights[i] === 0) continue
    isOpen[i] = 0
    blocks++
  }
  return { matrix, blocks }
}

function squareOff(matrix: Matrix3, from: readonly number[], to: readonly number[], i: number): number {
  const at = apply(matrix, from[2 * i]!, from[2 * i + 1]!)
  const [dx, dy] = [at.x - to[2 * i]!, at.y - to[2 * i + 1]!]
  return dx * dx + dy * dy
}

function wayOf(
  a: Plane,
  b: Plane,
  col: number,
  row: number,
  nearX: number,
  nearY: number,
  reach: number,
  left: Float64Array,
): { readonly x: number; readonly y: number } | null {
  const side = 2 * reach + 1
  const [atX, atY] = [col + nearX - reach, row + nearY - reach]
  if (atX < 0 || atY < 0 || atX + BLOCK + 2 * reach > b.width || atY + BLOCK + 2 * reach > b.height)
    return null
  let [least, mean] = [0, 0]
  for (let k = 0; k < left.length; k++) {
    const from = (atY + Math.floor(k / side)) * b.width + atX + (k % side)
    left[k] = blockDifference(a, b, row * a.width + col, from)
    mean += left[k]! / left.length
    if (left[k]! < left[least]!) least = k
  }
  const [x, y] = [least % side, Math.floor(least / side)]
  if (x === 0 || y === 0 || x === side - 1 || y === side - 1) return null
  if (mean - left[least]! < MIN_DIP * mean) return null
  return {
    x: nearX + x - reach + lowestBetween(left[least - 1]!, left[least]!, left[least + 1]!),
    y: nearY + y - reach + lowestBetween(left[least - side]!, left[least]!, left[least + side]!),
  }
}

/** Every other row tells as much. */
function blockDifference(a: Plane, b: Plane, fromA: number, fromB: number): number {
  let sum = 0
  for (let row = 0; row < BLOCK; row += 2)
    sum += rowDifference(a.data, fromA + row * a.width, b.data, fromB + row * b.width, BLOCK)
  return sum
}
