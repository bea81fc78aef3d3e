import { createRandom } from '../../tests/random'
import { createSamples, type Samples } from '../image/samples'
import { findBadPixels, type BadPixel, type BadPixelClass } from './badPixels'
import { countClip } from './clipStatistics'

const [WIDTH, HEIGHT] = [180, 110]

/** Deviation 1; every frame begins elsewhere in it. */
const NOISE = (() => {
  const random = createRandom(99)
  return Float32Array.from({ length: 99_991 }, () => (random() + random() + random() + random() - 2) * Math.sqrt(3))
})()

interface Defect {
  readonly class: BadPixelClass
  readonly col: number
  readonly row: number
}
const CLASSES: readonly BadPixelClass[] = ['dead', 'hot', 'stuck-red', 'stuck-green', 'stuck-blue', 'cluster']

/** A busy painting, larger than the picture, that the camera goes over. */
function painted(random: () => number): Float32Array {
  const [width, height] = [WIDTH + 100, HEIGHT + 40]
  const blobs = Array.from({ length: 160 }, () => ({
    x: random() * width,
    y: random() * height,
    r: 2 + 14 * random(),
    v: random() - 0.5,
    c: random(),
  }))
  const out = new Float32Array(width * height * 3).fill(0.32)
  for (const { x, y, r, v, c } of blobs) {
    for (let row = Math.max(0, Math.floor(y - r)); row < Math.min(height, y + r); row++) {
      for (let col = Math.max(0, Math.floor(x - r)); col < Math.min(width, x + r); col++) {
        if ((col - x) ** 2 + (row - y) ** 2 > r * r) continue
        for (let k = 0; k < 3; k++) out[(row * width + col) * 3 + k]! += 0.3 * v * (0.5 + Math.abs(c - k / 3))
      }
    }
  }
  return out.map((value) => Math.min(0.95, Math.max(0.06, value)))
}

function defects(random: () => number, each: number): Defect[] {
  const out: Defect[] = []
  while (out.length < CLASSES.length * each) {
    const one = {
      class: CLASSES[out.length % CLASSES.length]!,
      col: 8 + Math.floor(random() * (WIDTH - 16)),
      row: 8 + Math.floor(random() * (HEIGHT - 16)),
    }
    if (out.every(({ col, row }) => Math.max(Math.abs(col - one.col), Math.abs(row - one.row)) > 12)) out.push(one)
  }
  return out
}

const LEVELS: Readonly<Record<BadPixelClass, readonly (number | null)[]>> = {
  dead: [0, 0, 0],
  hot: [1, 1, 1],
  'stuck-red': [1, null, null],
  'stuck-green': [null, 1, null],
  'stuck-blue': [null, null, 1],
  cluster: [1, 1, 1],
}

function frameOf(painting: Float32Array, shiftPx: number, grain: number, list: readonly Defect[], random: () => number): Samples {
  const samples = createSamples(WIDTH, HEIGHT, 3, 8)
  const across = (WIDTH + 100) * 3
  const [whole, part] = [Math.floor(shiftPx), shiftPx - Math.floor(shiftPx)]
  const values = new Float32Array(WIDTH * HEIGHT * 3)
  const from = Math.floor(random() * NOISE.length)
  for (let row = 0; row < HEIGHT; row++) {
    for (let i = 0; i < WIDTH * 3; i++) {
      const at = (row + 10) * across + i + 3 * whole
      const light = painting[at]! * (1 - part) + painting[at + 3]! * part
      values[row * WIDTH * 3 + i] = 255 * light + grain * NOISE[(from + row * WIDTH * 3 + i) % NOISE.length]!
    }
  }
  for (const { class: kind, col, row } of list) {
    const reach = kind === 'cluster' ? 1 : 0
    for (let dy = -reach - 1; dy <= reach + 1; dy++) {
      for (let dx = -reach - 1; dx <= reach + 1; dx++) {
        const away = Math.max(0, Math.abs(dx) - reach) + Math.max(0, Math.abs(dy) - reach)
        // What demosaicing spreads to the next pixels.
        const share = away === 0 ? 1 : away === 1 ? 0.3 : 0
        LEVELS[kind].forEach((level, c) => {
          const at = ((row + dy) * WIDTH + col + dx) * 3 + c
          if (level !== null) values[at] = values[at]! * (1 - share) + 255 * level * share
        })
      }
    }
  }
  values.forEach((value, i) => (samples.data[i] = Math.min(255, Math.max(0, Math.round(value)))))
  return samples
}

function clipOf(seed: number, frames: number, grain: number, list: (random: () => number) => Defect[], pxAFrame = 2.3) {
  const random = createRandom(seed)
  const painting = painted(random)
  const planted = list(random)
  const counter = countClip({ width: WIDTH, height: HEIGHT, channels: 3 })
  for (let frame = 0; frame < frames; frame++) counter.add(frameOf(painting, 4 + pxAFrame * frame, grain, planted, random))
  return { planted, found: findBadPixels(counter.finish()) }
}

const isAt = (find: BadPixel, defect: Defect) => Math.abs(find.x - defect.col - 0.5) < 1 && Math.abs(find.y - defect.row - 0.5) < 1

test.each([1, 2, 4])('at a grain of %d code values, all are found with their class, and nothing else', (grain) => {
  let [found, right, planted] = [0, 0, 0]
  for (const seed of [1, 2, 3]) {
    const clip = clipOf(seed, 24, grain, (random) => defects(random, 3))
    planted += clip.planted.length
    found += clip.found.length
    right += clip.planted.filter((defect) => clip.found.some((find) => isAt(find, defect) && find.class === defect.class)).length
  }
  expect(right / planted).toBeGreaterThanOrEqual(0.98)
  expect(right / found).toBeGreaterThanOrEqual(0.98)
})

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
    clipOf(7, frames, 2, list, 48 / frames).found.map((find) => `${find.class} ${Math.round(find.x)} ${Math.round(find.y)}`)
  expect(names(32)).toEqual(names(16))
})

test('before a locked camera the picture’s own specks are no finds; what does not even have its grain is, but not surely', () => {
  const { planted, found } = clipOf(9, 16, 2, (random) => defects(random, 2), 0)
  for (const find of found) {
    expect(planted.some((defect) => isAt(find, defect))).toBe(true)
    expect(find.sure).toBeLessThan(0.5)
    expect(find.why).toContain('may be a light')
  }
  expect(found.length).toBeGreaterThanOrEqual(0.8 * planted.length)
})

test('frames of another shape, and no frame at all, are refused', () => {
  const counter = countClip({ width: 4, height: 4, channels: 3 })
  expect(() => counter.finish()).toThrow(RangeError)
  expect(() => counter.add(createSamples(5, 4, 3, 8))).toThrow(/5 x 4 x 3/)
})
