import { completed } from '../method'
import { flattenEllipse } from '../../geometry/outline'
import { NEVER } from '../method'
import { closedInput, paintRaster } from '../../../tests/fixtures/sampleInput'
import { near } from './near'

const never = { shouldStop: () => false }
const hard = { featherOutPx: 0, featherInPx: 0, growPx: 0 }
const pixelBox = (col: number, row: number, size = 1) => [
  col,
  row,
  col + size,
  row,
  col + size,
  row + size,
  col,
  row + size,
]

function filled(
  picture: ReturnType<typeof paintRaster>,
  polygon: readonly number[],
  ringPx: number,
  taboo: Uint8Array | null = null,
) {
  const input = closedInput(picture, polygon, hard, { taboo })
  const result = completed(near.run(input, { ringPx }, never))
  if (!result.ok) throw new Error(result.detail)
  return (col: number, row: number) => {
    const entry = [...input.field.pixels].indexOf(row * picture.width + col)
    return { value: result.values[entry * picture.channels]!, kept: result.grainKept[entry]! }
  }
}

test('one pixel takes the mean of its eight neighbours, the straight ones twice as much as the diagonal', () => {
  const around = [
    [1, 2, 3],
    [4, 99, 5],
    [6, 7, 8],
  ]
  const picture = paintRaster(5, 5, (x, y) => around[Math.floor(y) - 1]?.[Math.floor(x) - 1] ?? 50, 1)
  const { value, kept } = filled(picture, pixelBox(2, 2), 1)(2, 2)
  // Weights 1 / d²: 1 on the sides, 1/2 on the corners.
  expect(value).toBeCloseTo((2 + 4 + 5 + 7 + (1 + 3 + 6 + 8) / 2) / 6, 6)
  expect(kept).toBeCloseTo((4 + 4 * 0.25) / 36, 6)
})

test('a wider ring averages outwards; a linear ramp comes back on a cluster of 3 × 3', () => {
  const ramp = paintRaster(24, 20, (x, y) => 0.02 * x + 0.01 * y, 1)
  const broken = {
    ...ramp,
    data: ramp.data.map((value, i) =>
      Math.abs((i % 24) - 11) < 2 && Math.abs(Math.floor(i / 24) - 9) < 2 ? 1 : value,
    ),
  }
  for (const ringPx of [1, 3]) {
    const at = filled(broken, pixelBox(10, 8, 3), ringPx)
    expect(at(11, 9).value).toBeCloseTo(0.02 * 11.5 + 0.01 * 9.5, 6)
    // Off the middle, the nearer side counts more: a little flatter than the ramp.
    expect(Math.abs(at(10, 8).value - (0.02 * 10.5 + 0.01 * 8.5))).toBeLessThan(0.02) // one step of the ramp
  }
})

test('what is held out is looked past, and an area that covers everything is told', () => {
  const picture = paintRaster(20, 20, (x) => (x > 12 ? 9 : 0.4), 1)
  const taboo = new Uint8Array(400)
  for (let i = 0; i < 400; i++) if (i % 20 >= 12) taboo[i] = NEVER
  expect(filled(picture, pixelBox(10, 10, 2), 2, taboo)(11, 10).value).toBeCloseTo(0.4, 6)
  const all = closedInput(picture, [-5, -5, 30, -5, 30, 30, -5, 30], hard)
  expect(completed(near.run(all, { ringPx: 2 }, never))).toMatchObject({ ok: false, reason: 'nothing-known' })
})

test('every direction of an odd shape sees what a walk outwards would see', () => {
  const picture = paintRaster(40, 40, (x, y, c) => 0.5 + 0.3 * Math.sin(x * 0.9 + c) * Math.cos(y * 1.1))
  const input = closedInput(picture, flattenEllipse(20, 19, 9, 6, 30), hard)
  const result = completed(near.run(input, { ringPx: 2 }, never))
  if (!result.ok) throw new Error(result.detail)
  const isHole = new Uint8Array(1600)
  for (let i = 0; i < input.field.count; i++)
    if (input.wanted[i]! > 0 && input.field.edges[i]! < input.rimPx) isHole[input.field.pixels[i]!] = 1
  for (let i = 0; i < input.field.count; i += 7) {
    const pixel = input.field.pixels[i]!
    if (isHole[pixel] === 0) continue
    let [sum, total] = [0, 0]
    for (let dy = -1; dy <= 1; dy++) {
      for (let dx = -1; dx <= 1; dx++) {
        if (dx === 0 && dy === 0) continue
        let [x, y, steps] = [(pixel % 40) + dx, Math.floor(pixel / 40) + dy, 1]
        // An area's rim pixels are trouble too until the plate is trusted.
        const isKnown = (u: number, v: number) => isHole[v * 40 + u] === 0 && !isOwn(v * 40 + u)
        for (; !isKnown(x, y); x += dx, y += dy) steps++
        const ring = [0, 1]
          .filter((k) => isKnown(x + k * dx, y + k * dy))
          .map((k) => picture.data[((y + k * dy) * 40 + x + k * dx) * 3]!)
        const weight = 1 / (steps * steps * (dx * dx + dy * dy))
        sum += (weight * ring.reduce((a, b) => a + b, 0)) / ring.length
        total += weight
      }
    }
    expect(result.values[i * 3]).toBeCloseTo(sum / total, 5)
  }

  function isOwn(pixel: number): boolean {
    const entry = input.field.pixels.indexOf(pixel)
    return entry >= 0 && input.field.edges[entry]! < input.rimPx
  }
})
