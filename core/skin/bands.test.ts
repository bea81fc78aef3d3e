import { createRandom } from '../../tests/random'
import { createRaster, type Raster } from '../image/raster'
import { COLOURS, splitSkin, type SkinBands } from './bands'

const [WIDTH, HEIGHT] = [96, 80]
const SIZE = WIDTH * HEIGHT
const WIDTHS = { radiusPx: 16, poresPx: 3, formStep: 0.09 }
const all = new Float32Array(SIZE).fill(1)

const pictureOf = (value: (x: number, y: number) => number): Raster => {
  const out = createRaster(WIDTH, HEIGHT, 3)
  for (let at = 0; at < SIZE; at++)
    out.data.fill(value(at % WIDTH, Math.floor(at / WIDTH)), 3 * at, 3 * at + 3)
  return out
}
/** Of a band, well inside. */
function energy(band: Float32Array): number {
  let sum = 0
  for (let y = 20; y < HEIGHT - 20; y++)
    for (let x = 20; x < WIDTH - 20; x++) sum += band[COLOURS * (y * WIDTH + x)]! ** 2
  return sum
}
/** What is left of a picture beyond its bands. */
const pores = ({ data }: Raster, { form, blotches }: SkinBands) =>
  data.map((one, i) => one - form[i]! - blotches[i]!)
const without = (bands: SkinBands, level: number) => bands.form.map((one) => one - level)

test('blotches go to blotches, pores to pores, a step of light to form', () => {
  const waves = pictureOf((x, y) => 0.5 + 0.02 * Math.sin(x / 2.5) * Math.sin(y / 2.5))
  const blotchy = splitSkin(waves, all, WIDTHS)
  expect(energy(blotchy.blotches)).toBeGreaterThan(
    4 * (energy(without(blotchy, 0.5)) + energy(pores(waves, blotchy))),
  )
  const random = createRandom(4)
  const grainy = pictureOf(() => 0.5 + 0.02 * (random() - 0.5))
  const porous = splitSkin(grainy, all, WIDTHS)
  expect(energy(pores(grainy, porous))).toBeGreaterThan(4 * energy(porous.blotches))
  const stepped = splitSkin(
    pictureOf((x) => (x < 48 ? 0.35 : 0.65)),
    all,
    WIDTHS,
  )
  const at = COLOURS * (40 * WIDTH + 40)
  expect(stepped.form[at + COLOURS * 16]! - stepped.form[at]!).toBeGreaterThan(0.24)
})

test('what is not skin is not spread over it', () => {
  const picture = pictureOf((x) => (x < 48 ? 0.6 : 0.05))
  const skin = all.map((_, at) => (at % WIDTH < 48 ? 1 : 0))
  const { form } = splitSkin(picture, skin, { ...WIDTHS, formStep: 1 })
  expect(form[COLOURS * (40 * WIDTH + 46)]).toBeCloseTo(0.6, 4)
})
