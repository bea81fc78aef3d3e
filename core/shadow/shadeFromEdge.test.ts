import { createRandom } from '../../tests/random'
import { createRaster } from '../image/raster'
import { fallingMeans } from './depthProfile'
import { shadeFromEdge } from './shadeFromEdge'
import { shareThrough, type ShadedPlaces } from './shade'

const [WIDTH, HEIGHT] = [260, 220]
const [MID_X, MID_Y, RADIUS, DRAWN] = [130, 110, 48, 64]
const distanceAt = (pixel: number) => Math.hypot((pixel % WIDTH) - MID_X, Math.floor(pixel / WIDTH) - MID_Y)
const depths = Float32Array.from({ length: WIDTH * HEIGHT }, (_, pixel) => DRAWN - distanceAt(pixel))
const pixels = Int32Array.from({ length: WIDTH * HEIGHT }, (_, pixel) => pixel).filter(
  (pixel) => depths[pixel]! > 0,
)
const places: ShadedPlaces = { width: WIDTH, height: HEIGHT, colours: 3, pixels }
const strengthAt = (pixel: number) => Math.min(1, Math.max(0, (RADIUS + 8 - distanceAt(pixel)) / 16))

/** Ground with blotches of a few px and grain; `texture` is their deviation in light. */
function look(missing: readonly number[], texture: number) {
  const random = createRandom(12)
  const light = createRaster(WIDTH, HEIGHT, 3)
  const blotches = Float32Array.from({ length: 90 * 90 }, () => random() + random() - 1)
  for (let pixel = 0; pixel < WIDTH * HEIGHT; pixel++) {
    const [x, y] = [pixel % WIDTH, Math.floor(pixel / WIDTH)]
    const blotch = blotches[Math.floor(y / 3) * 90 + Math.floor(x / 3)]!
    for (let c = 0; c < 3; c++) {
      const ground = 0.35 * (1 + texture * 2.4 * blotch) * (1 + 0.02 * (random() - 0.5)) * (1 + 0.05 * c)
      light.data[3 * pixel + c] = ground * (1 - missing[c]! * strengthAt(pixel))
    }
  }
  return { light, depths, isGround: depths.map((depth) => (depth > 0 ? 0 : 1)) as unknown as Uint8Array }
}

test.each([
  ['smooth', 0.02, 0.03],
  ['rough', 0.2, 0.06],
])('on %s ground its depth and edge are found, drawn 16 px too large', (_name, texture, least) => {
  const missing = [0.62, 0.55, 0.46]
  const { strengths, missing: found } = shadeFromEdge(look(missing, texture), places, 2)!
  let off = 0
  pixels.forEach((pixel, k) => {
    for (let c = 0; c < 3; c++) {
      const wanted = 1 - missing[c]! * strengthAt(pixel)
      off += Math.abs(shareThrough(strengths[k]!, found[c]!) - wanted) / (3 * pixels.length)
    }
  })
  expect(off).toBeLessThan(least)
  // At the drawn edge nothing is left of it: no step is made there.
  pixels.forEach((pixel, k) => {
    if (depths[pixel]! < 3) expect(strengths[k]).toBeLessThan(0.12)
  })
})

test('ground that is nowhere darker inside has no shadow', () => {
  expect(shadeFromEdge(look([0, 0, 0], 0.02), places, 2)).toBeNull()
  expect(shadeFromEdge(look([-0.3, -0.3, -0.3], 0.02), places, 2)).toBeNull()
})

test('with no ground around nothing is said', () => {
  const without = { ...look([0.5, 0.5, 0.5], 0.02), isGround: new Uint8Array(WIDTH * HEIGHT) }
  expect(shadeFromEdge(without, places, 2)).toBeNull()
})

// The worked example of the help page of isoreg in R's package stats, from memory; it rises there.
test('monotone averages as R makes them', () => {
  const rising = [1, 0, 4, 3, 3, 5, 4, 2, 0]
  const wanted = [0.5, 0.5, 3, 3, 3, 3, 3, 3, 3]
  const falling = fallingMeans(
    rising.map((one) => -one),
    new Array<number>(9).fill(1),
  )
  falling.forEach((one, i) => expect(one).toBeCloseTo(-wanted[i]!, 12))
})

test('monotone averages: never rising, sums kept, weights heeded', () => {
  const random = createRandom(3)
  const values = Array.from({ length: 40 }, (_, i) => -i / 10 + random())
  const weights = Array.from({ length: 40 }, () => 0.2 + random())
  const out = fallingMeans(values, weights)
  const total = (row: readonly number[]) => row.reduce((sum, one, i) => sum + one * weights[i]!, 0)
  expect(total(out)).toBeCloseTo(total(values), 9)
  for (let i = 1; i < out.length; i++) expect(out[i]).toBeLessThanOrEqual(out[i - 1]! + 1e-12)
})
