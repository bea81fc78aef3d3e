import { createRandom } from '../../tests/random'
import { BRIGHTNESS_SHARES } from '../colour/ycc'
import { createRaster, type Raster } from '../image/raster'
import { shrink } from '../image/shrink'
import { evenPixels, splitSkin, type EvenParams, type SkinBands } from './bands'

const [WIDTH, HEIGHT] = [96, 80]
const SIZE = WIDTH * HEIGHT
const WIDTHS = { radiusPx: 16, poresPx: 3, formStep: 0.09 }
const COLOURS = 3
const all = new Float32Array(SIZE).fill(1)

const pictureOf = (value: (x: number, y: number) => number): Raster => {
  const out = createRaster(WIDTH, HEIGHT, COLOURS)
  for (let at = 0; at < SIZE; at++)
    out.data.fill(value(at % WIDTH, Math.floor(at / WIDTH)), 3 * at, 3 * at + 3)
  return out
}

/** Of a place of the picture, what a raster that is smaller by `by` has there: bilinear, the edge repeats. */
function readAt({ width, height, channels, data }: Raster, by: number, col: number, row: number): number[] {
  const x = Math.min(width - 1, Math.max(0, (col + 0.5) / by - 0.5))
  const y = Math.min(height - 1, Math.max(0, (row + 0.5) / by - 0.5))
  const [left, top] = [Math.floor(x), Math.floor(y)]
  const at = (c: number, right: number, down: number) =>
    data[(Math.min(height - 1, top + down) * width + Math.min(width - 1, left + right)) * channels + c]!
  const [fx, fy] = [x - left, y - top]
  return Array.from(
    { length: channels },
    (_, c) =>
      (1 - fy) * ((1 - fx) * at(c, 0, 0) + fx * at(c, 1, 0)) +
      fy * ((1 - fx) * at(c, 0, 1) + fx * at(c, 1, 1)),
  )
}

/** The bands at a place of the picture, by their definition. */
function bandsAt({ middle, lines, linesBy }: SkinBands, by: number, col: number, row: number) {
  const here = readAt(middle, by, col, row)
  const line = readAt(lines, by * linesBy, col, row)
  const light = BRIGHTNESS_SHARES.reduce((sum, share, c) => sum + share * here[c]!, 0)
  const form = [0, 1, 2].map((c) => line[c]! * light + line[4 + c]!)
  return { form, blotches: form.map((one, c) => here[c]! - one), middle: here }
}

/** Energies of the three bands, well inside. */
function energies(picture: Raster, bands: SkinBands, level: number) {
  const sums = { form: 0, blotches: 0, pores: 0 }
  for (let y = 20; y < HEIGHT - 20; y++) {
    for (let x = 20; x < WIDTH - 20; x++) {
      const here = bandsAt(bands, 1, x, y)
      sums.form += (here.form[0]! - level) ** 2
      sums.blotches += here.blotches[0]! ** 2
      sums.pores += (picture.data[COLOURS * (y * WIDTH + x)]! - here.middle[0]!) ** 2
    }
  }
  return sums
}

test('blotches go to blotches, pores to pores, a step of light to form', () => {
  const waves = pictureOf((x, y) => 0.5 + 0.02 * Math.sin(x / 2.5) * Math.sin(y / 2.5))
  const blotchy = energies(waves, splitSkin(waves, all, WIDTHS), 0.5)
  expect(blotchy.blotches).toBeGreaterThan(4 * (blotchy.form + blotchy.pores))
  const random = createRandom(4)
  const grainy = pictureOf(() => 0.5 + 0.02 * (random() - 0.5))
  const porous = energies(grainy, splitSkin(grainy, all, WIDTHS), 0.5)
  expect(porous.pores).toBeGreaterThan(4 * porous.blotches)
  const step = pictureOf((x) => (x < 48 ? 0.35 : 0.65))
  const stepped = splitSkin(step, all, WIDTHS)
  expect(bandsAt(stepped, 1, 56, 40).form[0]! - bandsAt(stepped, 1, 40, 40).form[0]!).toBeGreaterThan(0.24)
})

test('blotches may be longer one way than the other', () => {
  const across = pictureOf((_, y) => 0.5 + 0.03 * Math.sin(y / 7))
  const along = pictureOf((x) => 0.5 + 0.03 * Math.sin(x / 7))
  const blotchesOf = (picture: Raster, downBy: number) =>
    energies(picture, splitSkin(picture, all, { ...WIDTHS, radiusPx: 8, downBy }), 0.5).blotches
  expect(blotchesOf(across, 3)).toBeGreaterThan(2 * blotchesOf(across, 1))
  expect(blotchesOf(along, 3)).toBeLessThan(1.2 * blotchesOf(along, 1))
  expect(blotchesOf(across, 1)).toBeCloseTo(blotchesOf(along, 1), 1)
})

test('light that falls off evenly is form, and keeps no blotches in it', () => {
  const waves = (x: number, y: number) => 0.02 * Math.sin(x / 2.5) * Math.sin(y / 2.5)
  const lit = pictureOf((x, y) => 0.25 + 0.006 * x + waves(x, y))
  const bands = splitSkin(lit, all, WIDTHS)
  for (let x = 24; x < WIDTH - 24; x += 3) {
    const { form, blotches } = bandsAt(bands, 1, x, 40)
    expect(form[0]).toBeCloseTo(0.25 + 0.006 * x, 1)
    expect(Math.abs(form[0]! - 0.25 - 0.006 * x)).toBeLessThan(0.009)
    expect(Math.abs(blotches[0]! - waves(x, 40))).toBeLessThan(0.013)
  }
})

test('what is not skin is not spread over it', () => {
  const picture = pictureOf((x) => (x < 48 ? 0.6 : 0.05))
  const skin = all.map((_, at) => (at % WIDTH < 48 ? 1 : 0))
  const bands = splitSkin(picture, skin, { ...WIDTHS, formStep: 1 })
  expect(bandsAt(bands, 1, 44, 40).form[0]).toBeCloseTo(0.6, 4)
  expect(bandsAt(bands, 1, 46, 40).middle[0]).toBeCloseTo(0.6, 4)
})

/** Sums that a window's line and plane are told by: of known, x, y, guide, map and their products. */
function lineOf(
  window: readonly { x: number; y: number; known: number; guide: number; map: number }[],
  floor: number,
) {
  const total = window.reduce((sum, { known }) => sum + known, 0)
  const mean = (of: (one: (typeof window)[number]) => number) =>
    window.reduce((sum, one) => sum + one.known * of(one), 0) / total
  const covariance = (a: 'x' | 'y' | 'guide' | 'map', b: 'x' | 'y' | 'guide' | 'map') =>
    mean((one) => one[a] * one[b]) - mean((one) => one[a]) * mean((one) => one[b])
  const determinant = covariance('x', 'x') * covariance('y', 'y') - covariance('x', 'y') ** 2
  const right = (covariance('guide', 'x') * covariance('y', 'y') - covariance('guide', 'y') * covariance('x', 'y')) / determinant // prettier-ignore
  const down = (covariance('guide', 'y') * covariance('x', 'x') - covariance('guide', 'x') * covariance('x', 'y')) / determinant // prettier-ignore
  const variance = covariance('guide', 'guide') - right * covariance('guide', 'x') - down * covariance('guide', 'y') // prettier-ignore
  const slope = (covariance('map', 'guide') - right * covariance('map', 'x') - down * covariance('map', 'y')) / (variance + floor) // prettier-ignore
  return { slope, rest: mean((one) => one.map) - slope * mean((one) => one.guide) }
}

/** Means over squares by what is known, by their definition. */
const meansOf = (map: readonly number[], known: Float32Array, around: (at: number) => readonly number[]) =>
  map.map((_, at) => {
    const sum = (of: (one: number) => number) => around(at).reduce((total, one) => total + of(one), 0)
    return sum((one) => known[one]! * map[one]!) / sum((one) => known[one]!)
  })

test('lines are those of windows whose plane was taken out, averaged over windows; what they miss widely is given back', () => {
  const random = createRandom(8)
  const [width, height, radius] = [14, 11, 3]
  const picture = createRaster(width, height, COLOURS)
  for (let at = 0; at < width * height; at++)
    for (let c = 0; c < COLOURS; c++)
      picture.data[3 * at + c] = 0.3 + 0.02 * (at % width) + (at % width > 7 ? 0.2 : 0) + 0.05 * random()
  const matte = Float32Array.from({ length: width * height }, () => 0.2 + 0.8 * random())
  const { middle, lines, linesBy } = splitSkin(picture, matte, {
    radiusPx: radius,
    poresPx: 1,
    formStep: 0.1,
  })
  expect(linesBy).toBe(1)
  const placesAround = (col: number, row: number) => {
    const out: { x: number; y: number; at: number }[] = []
    for (let y = Math.max(0, row - radius); y <= Math.min(height - 1, row + radius); y++)
      for (let x = Math.max(0, col - radius); x <= Math.min(width - 1, col + radius); x++) out.push({ x, y, at: y * width + x }) // prettier-ignore
    return out
  }
  const windowAt = (col: number, row: number, c: number) =>
    placesAround(col, row).map(({ x, y, at }) => {
      const rgb = middle.data.subarray(4 * at, 4 * at + 3)
      const guide = BRIGHTNESS_SHARES.reduce((sum, share, i) => sum + share * rgb[i]!, 0)
      return { x, y, known: matte[at]!, guide, map: rgb[c]! }
    })
  const everywhere = Array.from({ length: width * height }, (_, at) => at)
  const WIDE = 2 // half of the radius, a whole number
  const wideAround = (at: number) =>
    everywhere.filter((one) => Math.abs((one % width) - (at % width)) <= WIDE && Math.abs(Math.floor(one / width) - Math.floor(at / width)) <= WIDE) // prettier-ignore
  for (let c = 0; c < COLOURS; c++) {
    const told = everywhere.map((at) => lineOf(windowAt(at % width, Math.floor(at / width), c), 0.05 ** 2))
    const [slopes, rests] = (['slope', 'rest'] as const).map((part) =>
      everywhere.map((at) => {
        const around = placesAround(at % width, Math.floor(at / width)).map((one) => told[one.at]![part])
        return around.reduce((sum, one) => sum + one, 0) / around.length
      }),
    ) as [number[], number[]]
    const missed = everywhere.map((at) => {
      const rgb = middle.data.subarray(4 * at, 4 * at + 3)
      const guide = BRIGHTNESS_SHARES.reduce((sum, share, i) => sum + share * rgb[i]!, 0)
      return rgb[c]! - slopes[at]! * guide - rests[at]!
    })
    const wide = meansOf(meansOf(missed, matte, wideAround), matte, wideAround)
    for (const at of [0, 7 + 5 * width, 13 + 4 * width]) {
      expect(lines.data[8 * at + c]).toBeCloseTo(slopes[at]!, 2)
      expect(lines.data[8 * at + 4 + c]).toBeCloseTo(rests[at]! + wide[at]!, 2)
    }
  }
})

const EVEN_PARAMS: EvenParams = {
  passes: 1,
  blotchShare: 0.4,
  poreShare: 0.8,
  shineShare: 0.6,
  shineFrom: 0.5,
  lifts: null,
  trims: [0.02, -0.01, 0.005],
  tones: null,
  curve: null,
}

test.each([1, 2, 3])('the kernel evens as the definition says, split at 1 / %d', (by) => {
  const random = createRandom(by)
  const [width, height, channels] = [50, 37, 4]
  const picture = createRaster(width, height, channels)
  picture.data.forEach((_, at) => (picture.data[at] = 0.4 + 0.4 * random()))
  const small = shrink(picture, by)
  const matte = Float32Array.from({ length: small.width * small.height }, random)
  const bands = splitSkin(small, matte, { radiusPx: 12 / by, poresPx: 2, formStep: 0.1 })
  const pixels = Int32Array.from({ length: 300 }, (_, i) => 6 * i + (i % 3))
  const own = Float32Array.from(pixels).fill(0)
  const values = new Float32Array(channels * own.length)
  pixels.forEach((pixel, i) => values.set(picture.data.subarray(channels * pixel, channels * pixel + channels), channels * i)) // prettier-ignore
  const before = values.slice()
  const lifts = Float32Array.from({ length: small.width * small.height }, () => 0.2 * random())
  const needed = evenPixels(values, channels, pixels, width, bands, by, { ...EVEN_PARAMS, lifts })
  // All but pores is worked out on the middle's own pixels, and read between them.
  const evened = createRaster(small.width, small.height, 4)
  for (let at = 0; at < small.width * small.height; at++) {
    const { form, blotches, middle } = bandsAt(bands, 1, at % small.width, Math.floor(at / small.width))
    const even = form.map((one, c) => one + EVEN_PARAMS.blotchShare * blotches[c]!)
    const light = BRIGHTNESS_SHARES.reduce((sum, share, c) => sum + share * even[c]!, 0)
    const over = EVEN_PARAMS.shineShare * Math.max(0, Math.min(light - EVEN_PARAMS.shineFrom, ...even))
    for (let c = 0; c < COLOURS; c++)
      evened.data[4 * at + c] = (even[c]! - over) * (1 + lifts[at]!) + EVEN_PARAMS.trims[c]! - EVEN_PARAMS.poreShare * middle[c]! // prettier-ignore
    evened.data[4 * at + 3] = middle[3]!
  }
  pixels.forEach((pixel, i) => {
    const here = readAt(evened, by, pixel % width, Math.floor(pixel / width))
    expect(needed[i]).toBeCloseTo(here[3]!, 5)
    for (let c = 0; c < COLOURS; c++) {
      const pores = EVEN_PARAMS.poreShare * before[channels * i + c]!
      expect(values[channels * i + c]).toBeCloseTo(here[c]! + pores, 4)
    }
    expect(values[channels * i + 3]).toBe(before[channels * i + 3])
  })
})

test('brightness goes along its curve, pores stay as they are', () => {
  const picture = pictureOf((x, y) => (x % 2 === y % 2 ? 0.38 : 0.42))
  const bands = splitSkin(picture, all, { ...WIDTHS, poresPx: 6 })
  const values = picture.data.slice(0, COLOURS * WIDTH * 20)
  const pixels = Int32Array.from({ length: WIDTH * 20 }, (_, i) => i)
  const curve = Float32Array.of(0, 0.5, 1.2)
  const still = {
    passes: 1,
    blotchShare: 1,
    poreShare: 1,
    shineShare: 0,
    shineFrom: 0,
    lifts: null,
    trims: [0, 0, 0] as const,
    tones: null,
    curve,
  }
  evenPixels(values, COLOURS, pixels, WIDTH, bands, 1, still)
  const at = COLOURS * (10 * WIDTH + 40)
  expect((values[at]! + values[at + COLOURS]!) / 2).toBeCloseTo(0.4, 2)
  expect(Math.abs(values[at]! - values[at + COLOURS]!)).toBeCloseTo(0.04, 2)
  const brighter = pictureOf(() => 0.75)
  const bright = brighter.data.slice(0, COLOURS * WIDTH)
  evenPixels(bright, COLOURS, pixels.subarray(0, WIDTH), WIDTH, splitSkin(brighter, all, WIDTHS), 1, still)
  // From 0.5 on, 0.7 a half: half way between its last two values.
  expect(bright[40]).toBeCloseTo(0.85, 3)
})
