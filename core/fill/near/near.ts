import { z } from 'zod'
import type { Raster } from '../../image/raster'
import { labelled } from '../../parameter'
import { defineFill, knownPixels, ownValues } from '../method'
import { wantedPixels } from '../membrane/membrane'

const params = z.strictObject({
  ringPx: labelled(z.int().min(1).max(16).default(2), {
    title: 'Ring',
    help: 'How many good pixels next to the area are averaged in each direction: 1 takes the very nearest.',
    unit: 'px',
    step: 1,
  }),
})

/** The eight ways to look from a pixel. */
const WAYS: readonly (readonly [dx: number, dy: number])[] = [
  [-1, 0],
  [0, -1],
  [-1, -1],
  [1, -1],
  [1, 0],
  [0, 1],
  [1, 1],
  [-1, 1],
]

/**
 * Near: the nearest good pixels to all eight sides, blended by how near they are. For sensor pixels and small
 * clusters; over a wide area the eight directions show.
 *
 * Symbols: d distance to the nearest known pixel of a direction; its weight is 1 / d².
 * Cost: eight passes over the area: what a pixel sees that way is what its neighbour there sees, one step further.
 */
export const near = defineFill({
  id: 'near',
  version: 1,
  title: 'Near',
  summary:
    'Blends the nearest good pixels of all eight directions. For sensor pixels and specks; on wide areas the directions show.',
  source: 'Common practice, no source (inverse distance weights after D. Shepard, 1968).',
  params,
  needsPath: false,
  reach: ({ ringPx }) => ({ marginPx: ringPx + 2 }),

  run(input, { ringPx }, context) {
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'Before it began.' }
    const { picture, field } = input
    const { width, height, channels } = picture
    const isWanted = wantedPixels(input)
    const wanted = listOf(isWanted)
    const known = knownPixels(input)
    const values = ownValues(input)
    const grainKept = new Float32Array(field.count).fill(1)
    const size = width * height
    const totals = new Float64Array(size)
    const squares = new Float64Array(size)
    const sums = new Float64Array(size * channels)
    const sight: Sight = {
      steps: new Int32Array(size),
      taken: new Uint8Array(size),
      seen: new Float32Array(size * channels),
    }
    for (const way of WAYS) {
      if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'While looking around.' }
      lookInto(sight, picture, wanted, isWanted, known, way, ringPx)
      const length = way[0] * way[0] + way[1] * way[1]
      for (const pixel of wanted) {
        const taken = sight.taken[pixel]!
        if (taken === 0) continue
        const steps = sight.steps[pixel]!
        const weight = 1 / (steps * steps * length)
        for (let c = 0; c < channels; c++)
          sums[pixel * channels + c]! += weight * sight.seen[pixel * channels + c]!
        totals[pixel]! += weight
        squares[pixel]! += (weight * weight) / taken
      }
    }
    let [asked, answered] = [0, 0]
    for (let i = 0; i < field.count; i++) {
      const pixel = field.pixels[i]!
      if (isWanted[pixel] === 0) continue
      asked++
      const total = totals[pixel]!
      if (total === 0) continue
      answered++
      for (let c = 0; c < channels; c++) values[i * channels + c] = sums[pixel * channels + c]! / total
      grainKept[i] = squares[pixel]! / (total * total)
    }
    if (asked > 0 && answered === 0) {
      return {
        ok: false,
        reason: 'nothing-known',
        detail: 'No good pixel lies in sight of the area. Make it smaller, or choose another fill.',
      }
    }
    return { ok: true, values, grainKept }
  },
})

/** What every wanted pixel sees one way: how many steps away, the mean of how many pixels, 0 where nothing. */
interface Sight {
  readonly steps: Int32Array
  readonly taken: Uint8Array
  readonly seen: Float32Array
}

/** The pixels that are marked, in reading order: of a series of specks they are few among many. */
function listOf(isWanted: Uint8Array): Int32Array {
  const list = new Int32Array(isWanted.length)
  let count = 0
  for (let pixel = 0; pixel < isWanted.length; pixel++) if (isWanted[pixel] !== 0) list[count++] = pixel
  return list.subarray(0, count)
}

function lookInto(
  { steps, taken, seen }: Sight,
  { width, height, channels, data }: Raster,
  wanted: Int32Array,
  isWanted: Uint8Array,
  known: Uint8Array,
  [dx, dy]: readonly [number, number],
  ringPx: number,
): void {
  const isBack = dy < 0 || (dy === 0 && dx < 0) // the neighbour comes first in reading order
  for (let n = 0; n < wanted.length; n++) {
    const pixel = wanted[isBack ? n : wanted.length - 1 - n]!
    taken[pixel] = 0
    let [x, y] = [(pixel % width) + dx, ((pixel / width) | 0) + dy]
    if (x < 0 || y < 0 || x >= width || y >= height) continue
    const next = y * width + x
    if (isWanted[next] === 1) {
      steps[pixel] = steps[next]! + 1
      taken[pixel] = taken[next]!
      for (let c = 0; c < channels; c++) seen[pixel * channels + c] = seen[next * channels + c]!
      continue
    }
    // Past what is neither wanted nor known, then the first pixels that are known.
    let away = 1
    while (x >= 0 && y >= 0 && x < width && y < height && known[y * width + x] === 0) {
      x += dx
      y += dy
      away++
    }
    steps[pixel] = away
    for (let c = 0; c < channels; c++) seen[pixel * channels + c] = 0
    let count = 0
    for (
      ;
      count < ringPx && x >= 0 && y >= 0 && x < width && y < height && known[y * width + x] === 1;
      count++, x += dx, y += dy
    ) {
      for (let c = 0; c < channels; c++) seen[pixel * channels + c]! += data[(y * width + x) * channels + c]!
    }
    taken[pixel] = count
    for (let c = 0; c < channels && count > 0; c++) seen[pixel * channels + c]! /= count
  }
}
