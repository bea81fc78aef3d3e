import { createRandom } from '../../tests/random'
import { shadeFromLit } from './shadeFromLit'
import { shareThrough, type ShadedPlaces } from './shade'

const [WIDTH, HEIGHT] = [120, 90]
const places: ShadedPlaces = {
  width: WIDTH,
  height: HEIGHT,
  colours: 3,
  pixels: Int32Array.from({ length: WIDTH * HEIGHT }, (_, i) => i),
}
const MISSING = [0.6, 0.52, 0.41]
const SOFT_PX = 12

/** Full inside 25 px, gone at 37. */
function strengthAt(pixel: number): number {
  const far = Math.hypot((pixel % WIDTH) - 60, Math.floor(pixel / WIDTH) - 45)
  const t = Math.min(1, Math.max(0, (37 - far) / SOFT_PX))
  return t * t * (3 - 2 * t)
}
const truth = Float32Array.from(places.pixels, strengthAt)

function scene(noise: number, over: (pixel: number, c: number, light: number) => number = (_p, _c, l) => l) {
  const random = createRandom(4)
  const lit = Float32Array.from({ length: 3 * WIDTH * HEIGHT }, (_, i) => {
    const pixel = Math.floor(i / 3)
    return 0.25 + 0.12 * Math.sin((pixel % WIDTH) / 3 + (i % 3)) * Math.cos(pixel / WIDTH / 2.3)
  })
  const own = lit.map((light, i) => {
    const pixel = Math.floor(i / 3)
    const shaded = light * (1 - truth[pixel]! * MISSING[i % 3]!)
    return over(pixel, i % 3, shaded) + noise * (random() + random() - 1)
  })
  return { own, lit }
}
const allLit = new Uint8Array(WIDTH * HEIGHT).fill(1)

/** Mean and greatest difference of the shares of light that come through. */
function errorsOf(strengths: Float32Array, missing: readonly number[]) {
  let [sum, most] = [0, 0]
  for (let k = 0; k < truth.length; k++) {
    for (let c = 0; c < 3; c++) {
      const off = Math.abs(shareThrough(strengths[k]!, missing[c]!) - (1 - truth[k]! * MISSING[c]!))
      sum += off / (3 * truth.length)
      most = Math.max(most, off)
    }
  }
  return { mean: sum, most }
}

test('depth in each colour and strength at each place, through grain', () => {
  const { own, lit } = scene(0.02)
  const { strengths, missing } = shadeFromLit(own, lit, allLit, places, 2)!
  missing.forEach((one, c) => expect(one).toBeCloseTo(MISSING[c]!, 1))
  const { mean, most } = errorsOf(strengths, missing)
  expect(mean).toBeLessThan(0.006)
  expect(most).toBeLessThan(0.08)
})

test('without grain it is exact but for the window', () => {
  const { own, lit } = scene(0)
  const shade = shadeFromLit(own, lit, allLit, places, 1)!
  expect(errorsOf(shade.strengths, shade.missing).mean).toBeLessThan(0.003)
})

test('what passes through the shadow by itself changes little around it', () => {
  const isBird = (pixel: number) =>
    Math.abs((pixel % WIDTH) - 60) < 4 && Math.abs(Math.floor(pixel / WIDTH) - 45) < 4
  const { own, lit } = scene(0.005, (pixel, _c, light) => (isBird(pixel) ? 0.9 : light))
  const { strengths, missing } = shadeFromLit(own, lit, allLit, places, 2)!
  for (let pixel = 0; pixel < truth.length; pixel++) {
    const [x, y] = [pixel % WIDTH, Math.floor(pixel / WIDTH)]
    const away = Math.max(Math.abs(x - 60), Math.abs(y - 45))
    if (away < 8 || away > 16) continue
    expect(Math.abs(shareThrough(strengths[pixel]!, missing[1]!) - 0.48)).toBeLessThan(0.04)
  }
})

test('places that were not seen lit have no say', () => {
  const { own, lit } = scene(0.01)
  const some = allLit.map((_, pixel) => (pixel % WIDTH < 60 ? 1 : 0))
  const wrong = lit.map((light, i) => (some[Math.floor(i / 3)] === 1 ? light : 50))
  const { strengths, missing } = shadeFromLit(own, wrong, some, places, 2)!
  missing.forEach((one, c) => expect(one).toBeCloseTo(MISSING[c]!, 1))
  expect(strengths[45 * WIDTH + 40]).toBeGreaterThan(0.9)
})

test('where nothing is darker than its ground there is no shadow', () => {
  const { lit } = scene(0)
  expect(shadeFromLit(lit, lit, allLit, places, 2)).toBeNull()
  expect(
    shadeFromLit(
      lit.map((light) => 1.2 * light),
      lit,
      allLit,
      places,
      2,
    ),
  ).toBeNull()
  expect(shadeFromLit(lit, lit, new Uint8Array(allLit.length), places, 2)).toBeNull()
})
