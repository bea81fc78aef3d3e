import { createRaster, type Raster } from '../image/raster'
import { bandEnergies } from './bandEnergies'

const SIZE = 128
const pictureOf = (light: (x: number, y: number) => number): Raster => {
  const out = createRaster(SIZE, SIZE, 3)
  for (let at = 0; at < SIZE * SIZE; at++)
    out.data.fill(light(at % SIZE, Math.floor(at / SIZE)), 3 * at, 3 * at + 3)
  return out
}
const everywhere = new Uint8Array(SIZE * SIZE).fill(1)
const inside = everywhere.map((_, at) => (Math.min(at % SIZE, Math.floor(at / SIZE)) > 30 && Math.max(at % SIZE, Math.floor(at / SIZE)) < 98 ? 1 : 0)) // prettier-ignore
/** Waves of so many px from one crest to the next, of deviation 1 code value of 8 bits. */
const waves = (periodPx: number) =>
  pictureOf((x) => 0.5 + (Math.SQRT2 / 255) * Math.sin((2 * Math.PI * x) / periodPx))

test.each([3, 6, 12, 24, 48])(
  'waves of %d px show in the band of spots half as wide; bands next to each other share them',
  (period) => {
    const bands = bandEnergies(waves(period), waves(period), inside)
    const max = bands.reduce((a, b) => (b.plate > a.plate ? b : a))
    expect(max.widePx).toBeGreaterThan(period / 4)
    expect(max.widePx).toBeLessThan(period)
    const all = Math.sqrt(bands.reduce((sum, { plate }) => sum + plate * plate, 0))
    expect(all).toBeGreaterThan(0.5)
    expect(all).toBeLessThan(1.05)
    expect(bands.map(({ result }) => result)).toEqual(bands.map(({ plate }) => plate))
  },
)

test('what is asked alone counts; a plain picture has nothing in any band', () => {
  const half = pictureOf((x, y) => (x < 64 ? 0.5 : 0.5 + 0.1 * ((x + y) % 2)))
  const left = everywhere.map((_, at) => (at % SIZE < 40 ? 1 : 0))
  for (const { plate } of bandEnergies(half, half, left).slice(0, 3)) expect(plate).toBeLessThan(0.01)
  const [finest] = bandEnergies(
    half,
    pictureOf(() => 0.5),
    everywhere,
  )
  expect(finest!.plate).toBeGreaterThan(5)
  expect(finest!.result).toBeLessThan(1e-4)
  expect(bandEnergies(half, half, new Uint8Array(SIZE * SIZE)).every(({ plate }) => plate === 0)).toBe(true)
})
