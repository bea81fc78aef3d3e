import { createRandom } from '../../tests/random'
import { createSamples, type Samples } from '../image/samples'
import { clipFrame, noiseOf, paintDiscs, type Painting } from '../../tests/fixtures/sampleClip'
import { findBadPixels, type BadPixel, type BadPixelClass } from './badPixels'
import { countClip } from './clipStatistics'
import { SPOT_CLASSES } from './finds'

const [WIDTH, HEIGHT] = [180, 110]

const NOISE = noiseOf(createRandom(99))

interface Defect {
  readonly class: BadPixelClass
  readonly col: number
  readonly row: number
}
const CLASSES = SPOT_CLASSES

function defects(random: () => number, each: number): Defect[] {
  const out: Defect[] = []
  while (out.length < CLASSES.length * each) {
    const one = {
      class: CLASSES[out.length % CLASSES.length]!,
      col: 8 + Math.floor(random() * (WIDTH - 16)),
      row: 8 + Math.floor(random() * (HEIGHT - 16)),
    }
    if (out.every(({ col, row }) => Math.max(Math.abs(col - one.col), Math.abs(row - one.row)) > 12))
      out.push(one)
  }
  return out
}

const LEVELS: Readonly<Record<BadPixelClass, readonly (number | null)[]>> = {
  dead: [0, 0, 0],
  hot: [1, 1, 1],
  warm: [null, null, null],
  'stuck-red': [1, null, null],
  'stuck-green': [null, 1, null],
  'stuck-blue': [null, null, 1],
  cluster: [1, 1, 1],
}

function frameOf(
  painting: Painting,
  shiftPx: number,
  grain: number,
  list: readonly Defect[],
  random: () => number,
  spread: number,
  also: (values: Float32Array) => void,
): Samples {
  const place = {
    width: WIDTH,
    height: HEIGHT,
    x: shiftPx,
    row: 10,
    grain,
    noiseFrom: Math.floor(random() * NOISE.length),
  }
  return clipFrame(painting, NOISE, place, null, (values) => {
    list.forEach((defect) => addDefect(values, defect, spread))
    also(values)
  })
}

/** A warm pixel adds so much to whatever light falls on it. */
const WARM = 70

function addDefect(values: Float32Array, { class: kind, col, row }: Defect, spread = 0.3): void {
  if (kind === 'warm') {
    for (let at = (row * WIDTH + col) * 3, c = 0; c < 3; c++) values[at + c]! += WARM
    return
  }
  const reach = kind === 'cluster' ? 1 : 0
  for (let dy = -reach - 1; dy <= reach + 1; dy++) {
    for (let dx = -reach - 1; dx <= reach + 1; dx++) {
      const away = Math.max(0, Math.abs(dx) - reach) + Math.max(0, Math.abs(dy) - reach)
      // What demosaicing spreads to the next pixels.
      const share = away === 0 ? 1 : away === 1 ? spread : 0
      LEVELS[kind].forEach((level, c) => {
        const at = ((row + dy) * WIDTH + col + dx) * 3 + c
        if (level !== null) values[at] = values[at]! * (1 - share) + 255 * level * share
      })
    }
  }
}

function clipOf(
  seed: number,
  frames: number,
  grain: number,
  list: (random: () => number) => Defect[],
  pxAFrame = 2.3,
  spread = 0.3,
  also: (values: Float32Array) => void = () => undefined,
) {
  const random = createRandom(seed)
  const painting = paintDiscs(WIDTH + 100, HEIGHT + 40, 160, random)
  const planted = list(random)
  const counter = countClip({ width: WIDTH, height: HEIGHT, channels: 3 })
  for (let frame = 0; frame < frames; frame++)
    counter.add(frameOf(painting, 4 + pxAFrame * frame, grain, planted, random, spread, also))
  return { planted, found: findBadPixels(counter.finish()) }
}

const isAt = (find: BadPixel, defect: Defect) =>
  Math.abs(find.x - defect.col - 0.5) < 1 && Math.abs(find.y - defect.row - 0.5) < 1

test.each([1, 2, 4])(
  'at a grain of %d code values, all are found with their class, and nothing else',
  (grain) => {
    let [found, right, planted] = [0, 0, 0]
    for (const seed of [1, 2, 3]) {
      const clip = clipOf(seed, 24, grain, (random) => defects(random, 3))
      planted += clip.planted.length
      found += clip.found.length
      right += clip.planted.filter((defect) =>
        clip.found.some((find) => isAt(find, defect) && find.class === defect.class),
      ).length
    }
    expect(right / planted).toBeGreaterThanOrEqual(0.98)
    expect(right / found).toBeGreaterThanOrEqual(0.98)
  },
)

test('what was spread is part of the find: a pixel is three wide, a cluster five', () => {
  const { planted, found } = clipOf(5, 24, 2, (random) => defects(random, 3))
  for (const defect of planted) {
    const find = found.find((one) => isAt(one, defect))!
    expect(Math.max(find.widthPx, find.heightPx)).toBe(defect.class === 'cluster' ? 5 : 3)
  }
})

test('twice as long a clip gives the same finds', () => {
  const list = (random: () => number) => defects(random, 3)
  const names = (frames: number) =>
    clipOf(7, frames, 2, list, 48 / frames).found.map(
      (find) => `${find.class} ${Math.round(find.x)} ${Math.round(find.y)}`,
    )
  expect(names(32)).toEqual(names(16))
})

describe('before a locked camera', () => {
  test('the picture’s own specks are no finds; what lacks its grain is, but not surely where demosaicing has made it as soft as a light', () => {
    const { planted, found } = clipOf(9, 16, 2, (random) => defects(random, 2), 0)
    for (const find of found) expect(planted.some((one) => isAt(find, one))).toBe(true)
    const unsure = found.filter((find) => find.sure < 0.5)
    for (const find of unsure) expect(find.why).toContain('may be a light')
    expect(unsure.length).toBeGreaterThanOrEqual(0.6 * found.filter((find) => find.class !== 'warm').length)
    expect(found.length).toBeGreaterThanOrEqual(0.8 * planted.length)
  })

  test('what ends from one pixel to the next is no light: surely found, blind or with grain', () => {
    const { planted, found } = clipOf(9, 16, 2, (random) => defects(random, 3), 0, 0.08)
    const sure = found.filter((find) => find.sure >= 0.8)
    for (const find of sure) expect(planted.some((defect) => isAt(find, defect) && find.class === defect.class)).toBe(true) // prettier-ignore
    expect(sure.length).toBeGreaterThanOrEqual(0.8 * planted.length)
    expect(sure.some((find) => find.why.includes('lacks the grain'))).toBe(true)
    for (const find of sure) expect(find.why.includes('has the grain')).toBe(find.class === 'warm')
    expect(sure.some((find) => find.why.includes('has the grain'))).toBe(true)
  })

  test('a star is no warm pixel: the lens has spread it', () => {
    // In plain darkness; among sharp steps nothing tells the two apart.
    const star = (values: Float32Array) => {
      for (let row = 30; row < 50; row++) values.fill(30, (row * WIDTH + 60) * 3, (row * WIDTH + 100) * 3)
      for (let dy = -3; dy <= 3; dy++) {
        for (let dx = -3; dx <= 3; dx++)
          for (let at = ((40 + dy) * WIDTH + 80 + dx) * 3, c = 0; c < 3; c++)
            values[at + c]! += 110 * Math.exp(-(dx * dx + dy * dy) / (2 * 0.65 ** 2))
      }
    }
    const { found } = clipOf(9, 16, 2, () => [], 0, 0, star)
    expect(found.filter((find) => find.sure >= 0.8)).toEqual([])
  })
})

test('a bad pixel right at the edge is left to be seen by eye; it disturbs nothing', () => {
  const edge: Defect[] = [{ class: 'hot', col: 2, row: 50 }, { class: 'hot', col: 60, row: 7 }, { class: 'dead', col: 100, row: HEIGHT - 3 }] // prettier-ignore
  expect(clipOf(13, 16, 2, () => edge).found.map((find) => [Math.floor(find.x), Math.floor(find.y)])).toEqual(
    [[60, 7]],
  )
})

test('frames of another shape, and no frame at all, are refused', () => {
  const counter = countClip({ width: 4, height: 4, channels: 3 })
  expect(() => counter.finish()).toThrow(RangeError)
  expect(() => counter.add(createSamples(5, 4, 3, 8))).toThrow(/5 x 4 x 3/)
})

describe('before a covered lens', () => {
  /** Darkness with a sensor's grain: a little of it everywhere, more towards one edge. */
  const cappedClip = (list: readonly Defect[], levelAt = (col: number) => 2 + col / 180) => {
    const random = createRandom(11)
    const dark: Painting = {
      width: WIDTH + 2,
      height: HEIGHT,
      data: Float32Array.from(
        { length: (WIDTH + 2) * HEIGHT * 3 },
        (_, i) => levelAt(Math.floor(i / 3) % (WIDTH + 2)) / 255,
      ),
    }
    const counter = countClip({ width: WIDTH, height: HEIGHT, channels: 3 })
    for (let frame = 0; frame < 16; frame++) {
      const place = {
        width: WIDTH,
        height: HEIGHT,
        x: 0,
        row: 0,
        grain: 1.2,
        noiseFrom: Math.floor(random() * NOISE.length),
      }
      counter.add(
        clipFrame(dark, NOISE, place, null, (values) => list.forEach((defect) => addDefect(values, defect))),
      )
    }
    return findBadPixels(counter.finish())
  }

  test('whatever shines is a bad pixel, and surely so; dead ones cannot be seen', () => {
    const planted = defects(createRandom(3), 3)
    const found = cappedClip(planted)
    const shining = planted.filter((defect) => defect.class !== 'dead')
    for (const defect of shining)
      expect(found.find((find) => isAt(find, defect))).toMatchObject({ class: defect.class, sure: 1 })
    expect(found).toHaveLength(shining.length)
    expect(found[0]!.why).toContain('lens is covered')
  })

  test('a dark scene is no covered lens: a bright star at rest may be one, and the find says so', () => {
    // A course from dark to less dark, as a night sky has; the star is clipped, so it has no grain either.
    const star: Defect = { class: 'hot', col: 90, row: 50 }
    const found = cappedClip([star], (col) => 4 + col / 9)
    expect(found).toHaveLength(1)
    expect(found[0]!.sure).toBeLessThan(0.5)
    expect(found[0]!.why).toContain('may be a light')
  })
})
