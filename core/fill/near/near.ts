import { z } from 'zod'
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

/** The eight ways to look from a pixel, and how long one step is. */
const WAYS: readonly (readonly [dx: number, dy: number])[] = [
  [-1, 0],
  [1, 0],
  [0, -1],
  [0, 1],
  [-1, -1],
  [1, 1],
  [1, -1],
  [-1, 1],
]

/**
 * Near: the nearest good pixels to all eight sides, blended by how near they are. For sensor pixels and small
 * clusters; over a wide area the eight directions show.
 *
 * Symbols: d distance to the nearest known pixel of a direction; its weight is 1 / d².
 * Cost: eight looks for every pixel of the area, each as long as the area is there.
 */
export const near = defineFill({
  id: 'near',
  version: 1,
  title: 'Near',
  summary: 'Blends the nearest good pixels of all eight directions. For sensor pixels and specks; on wide areas the directions show.',
  source: 'Common practice, no source (inverse distance weights after D. Shepard, 1968).',
  params,
  needsPath: false,
  reach: ({ ringPx }) => ({ marginPx: ringPx + 2 }),

  run(input, { ringPx }, context) {
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'Before it began.' }
    const { picture, field } = input
    const { width, height, channels, data } = picture
    const isWanted = wantedPixels(input)
    const known = knownPixels(input)
    const values = ownValues(input)
    const grainKept = new Float32Array(field.count).fill(1)
    const sum = new Float64Array(channels)
    const ring = new Float64Array(channels)
    let [asked, answered] = [0, 0]
    for (let i = 0; i < field.count; i++) {
      const pixel = field.pixels[i]!
      if (isWanted[pixel] === 0) continue
      asked++
      const [col, row] = [pixel % width, (pixel / width) | 0]
      sum.fill(0)
      let [total, squared] = [0, 0]
      for (const [dx, dy] of WAYS) {
        let [x, y, steps, taken] = [col + dx, row + dy, 1, 0]
        ring.fill(0)
        for (; x >= 0 && y >= 0 && x < width && y < height; x += dx, y += dy) {
          const at = y * width + x
          if (known[at] === 0) {
            if (taken > 0) break
            steps++
            continue
          }
          for (let c = 0; c < channels; c++) ring[c]! += data[at * channels + c]!
          if (++taken === ringPx) break
        }
        if (taken === 0) continue
        const weight = 1 / (steps * steps * (dx * dx + dy * dy))
        for (let c = 0; c < channels; c++) sum[c]! += (weight * ring[c]!) / taken
        total += weight
        squared += (weight * weight) / taken
      }
      if (total === 0) continue
      answered++
      for (let c = 0; c < channels; c++) values[i * channels + c] = sum[c]! / total
      grainKept[i] = squared / (total * total)
    }
    if (asked > 0 && answered === 0) {
      return { ok: false, reason: 'nothing-known', detail: 'No good pixel lies in sight of the area. Make it smaller, or choose another fill.' }
    }
    return { ok: true, values, grainKept }
  },
})
