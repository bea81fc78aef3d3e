import { createRandom } from '../../tests/random'
import { srgb } from '../colour/transfer'
import { createRaster, type Raster } from '../image/raster'
import type { EdgeField } from '../matte/edge'
import { measureShadeLeft } from './shadeLeft'

const [WIDTH, HEIGHT] = [140, 100]
const count = WIDTH * HEIGHT
const OUTER_PX = 2
/** A disc of 35 px in the middle. */
const field: EdgeField = {
  count,
  pixels: Int32Array.from({ length: count }, (_, i) => i),
  edges: Float32Array.from(
    { length: count },
    (_, i) => Math.hypot((i % WIDTH) - 70, Math.floor(i / WIDTH) - 50) - 35,
  ),
}

/** Ground with texture and grain; inside its light is raised by so many stops in each colour, and its texture by a factor. */
function ground(stops: readonly number[] = [0, 0, 0], contrast = 1): Raster {
  const random = createRandom(3)
  const picture = createRaster(WIDTH, HEIGHT, 3)
  for (let i = 0; i < 3 * count; i++) {
    const pixel = Math.floor(i / 3)
    const isIn = field.edges[pixel]! < 0
    const texture = 0.06 * Math.sin((pixel % WIDTH) / 1.7) * Math.cos(pixel / WIDTH / 1.9)
    const value = 0.45 + (isIn ? contrast : 1) * texture
    const lit = isIn ? srgb.encode(srgb.decode(value) * 2 ** stops[i % 3]!) : value
    picture.data[i] = lit + 0.01 * (random() - 0.5)
  }
  return picture
}
const shaded = ground([-1, -1, -0.9])
const lit = ground().data
const against = (result: Raster) => measureShadeLeft(result, shaded, field, OUTER_PX, lit, null)

test('ground lifted right is as bright as in the light, of its colour and contrast', () => {
  const { offStops, castStops, contrast } = against(ground())
  expect(Math.abs(offStops!)).toBeLessThan(0.01)
  expect(castStops!).toBeLessThan(0.01)
  expect(contrast!).toBeCloseTo(1, 1)
})

test.each([
  ['too little', [-0.3, -0.3, -0.3], -0.3, 0],
  ['one colour wrong', [0.3, 0, 0], 0.1, 0.2],
])('%s is told against other frames, and across the edge', (_, stops, off, cast) => {
  for (const told of [
    against(ground(stops)),
    measureShadeLeft(ground(stops), shaded, field, OUTER_PX, null, null),
  ]) {
    expect(Math.abs(told.offStops! - off)).toBeLessThan(0.04)
    expect(Math.abs(told.castStops! - cast)).toBeLessThan(0.04)
  }
})

test('contrast that changed is told against other frames; smooth ground has none', () => {
  expect(against(ground([0, 0, 0], 0.6)).contrast!).toBeCloseTo(0.6, 1)
  const flat = createRaster(WIDTH, HEIGHT, 3)
  flat.data.fill(0.45)
  expect(measureShadeLeft(flat, shaded, field, OUTER_PX, flat.data, null).contrast).toBeNull()
})

test('too few places tell nothing', () => {
  const nobody = lit.map(() => NaN)
  expect(measureShadeLeft(ground(), shaded, field, OUTER_PX, nobody, null).offStops).toBeNull()
})
