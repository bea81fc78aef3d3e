import { createRandom } from '../../tests/random'
import type { Samples } from '../image/samples'
import { countMotes, type Mote } from './motes'
import { quarterStops } from './quarter'
import { clipFrame, gainMap, noiseOf, paintDiscs } from '../../tests/fixtures/sampleClip'
import { levelsOf, shiftBetween, type Levels } from './shift'

const [WIDTH, HEIGHT] = [480, 272]
const NOISE = noiseOf(createRandom(7))

interface Planted {
  readonly x: number
  readonly y: number
  readonly radiusPx: number
  readonly depth: number
}

const throughAll =
  (motes: readonly Planted[]) =>
  (x: number, y: number): number =>
    motes.reduce((share, mote) => {
      const [dx, dy] = [(x - mote.x) / mote.radiusPx, (y - mote.y) / mote.radiusPx]
      const inside = 1 - dx * dx - dy * dy
      return inside > 0 ? share * (1 - mote.depth * inside * inside) : share
    }, 1)

function plant(random: () => number, count: number): Planted[] {
  const out: Planted[] = []
  while (out.length < count) {
    const radiusPx = 12 + 14 * random()
    const one = {
      x: 40 + random() * (WIDTH - 80),
      y: 40 + random() * (HEIGHT - 80),
      radiusPx,
      depth: 0.25 + 0.25 * random(),
    }
    if (
      out.every((other) => Math.hypot(other.x - one.x, other.y - one.y) > one.radiusPx + other.radiusPx + 12)
    )
      out.push(one)
  }
  return out
}

function clipOf(
  seed: number,
  frames: number,
  grain: number,
  count: number,
  pxAFrame: number,
  given: readonly Planted[] | null = null,
) {
  const random = createRandom(seed)
  const painting = paintDiscs(WIDTH + 400, HEIGHT + 20, 900, random)
  const motes = given ?? plant(random, count)
  const gains = gainMap(WIDTH, HEIGHT, throughAll(motes))
  return {
    motes,
    frameAt: (frame: number): Samples =>
      clipFrame(
        painting,
        NOISE,
        {
          width: WIDTH,
          height: HEIGHT,
          x: 3 + pxAFrame * frame,
          row: 10,
          grain,
          noiseFrom: Math.floor(random() * NOISE.length),
        },
        gains,
      ),
    frames,
  }
}

function look({ frames, frameAt }: { frames: number; frameAt: (frame: number) => Samples }): Mote[] {
  const counter = countMotes({ width: WIDTH / 4, height: HEIGHT / 4 })
  let last: Levels | null = null
  for (let frame = 0; frame < frames; frame++) {
    const levels = levelsOf(quarterStops(frameAt(frame)))
    counter.add(levels, last && shiftBetween(last, levels))
    last = levels
  }
  return counter.finish().map(({ mote }) => mote)
}

const isAt = (find: Mote, { x, y, radiusPx }: Planted) => Math.hypot(find.x - x, find.y - y) < 0.3 * radiusPx

test.each([1, 2, 4])(
  'at a grain of %d code values, motes are found with their place and depth, and hardly anything else',
  (grain) => {
    let [planted, found, right] = [0, 0, 0]
    for (const seed of [1, 2, 3, 4]) {
      const clip = clipOf(seed, 30, grain, 5, 9)
      const finds = look(clip)
      planted += clip.motes.length
      found += finds.length
      right += clip.motes.filter((mote) => finds.some((find) => isAt(find, mote))).length
    }
    expect(right / planted).toBeGreaterThanOrEqual(0.95)
    expect(right / found).toBeGreaterThanOrEqual(0.95)
  },
)

test('size and depth are those of the mote', () => {
  const clip = clipOf(9, 30, 1, 5, 9)
  const finds = look(clip)
  for (const mote of clip.motes) {
    const find = finds.find((one) => isAt(one, mote))!
    expect(Math.abs(find.radiusXPx - mote.radiusPx) / mote.radiusPx).toBeLessThan(0.2)
    // Stops of light are what a mote takes.
    expect(Math.abs(find.depthStops - Math.log2(1 - mote.depth))).toBeLessThan(0.12)
    expect(find.why).toContain('stops of whatever passes behind it')
  }
})

test('twice as many frames of the same pan give the same motes', () => {
  const at = (frames: number, pxAFrame: number) =>
    look(clipOf(5, frames, 2, 4, pxAFrame)).map(({ x, y }) =>
      [Math.round(x / 8), Math.round(y / 8)].join(' '),
    )
  expect(at(48, 5).sort()).toEqual(at(24, 10).sort())
})

test('a mote as wide as the picture has moved is found too, though it is laid over its own place', () => {
  // 46 px from middle to rim, 80 px of travel: all pairs of frames have it in both.
  const large: Planted = { x: 240, y: 136, radiusPx: 46, depth: 0.45 }
  const finds = look(clipOf(4, 24, 2, 0, 3.5, [large]))
  expect(finds).toHaveLength(1)
  expect(isAt(finds[0]!, large)).toBe(true)
  expect(finds[0]!.sure).toBeGreaterThanOrEqual(0.8)
})

test('before a locked camera dark spots of the scene are no motes: nothing tells them apart', () => {
  expect(look(clipOf(3, 16, 2, 4, 0))).toEqual([])
})

test('a picture that moves without dust has none', () => {
  for (const seed of [21, 22]) expect(look(clipOf(seed, 30, 2, 0, 9))).toEqual([])
})
