import { createSamples, type Samples } from '../image/samples'
import { runsOf } from '../image/runs'
import { translationBy } from '../geometry/transform'
import { createRandom } from '../../demo/random'
import { COARSE_PX, COARSE_VALUES, coarseFrame, markCellsInto } from './coarseFrame'
import { expectedAround, FARTHEST_LAG, lagsAround } from './lags'
import { measureOverTime, type OverTime } from './overTime'

const [WIDTH, HEIGHT] = [240, 180]
const AREA = { col: 90, row: 60, width: 48, height: 45 }

/** A wall of stripes and spots with grain that goes by, 3 px a frame; painted over where a mend is. */
function frameAt(frame: number, paint: (samples: Samples) => void = () => undefined): Samples {
  const samples = createSamples(WIDTH, HEIGHT, 3, 8)
  const random = createRandom(frame)
  for (let row = 0; row < HEIGHT; row++)
    for (let col = 0; col < WIDTH; col++) {
      const x = col + 3 * frame
      const value =
        120 + 40 * Math.sin(x / 9) * Math.cos(row / 7) + 4 * (random() + random() + random() - 1.5)
      for (let c = 0; c < 3; c++) samples.data[3 * (row * WIDTH + col) + c] = Math.round(value + 6 * c)
    }
  paint(samples)
  return samples
}

const inArea =
  (change: (value: number, col: number, row: number) => number, by = 0) =>
  ({ data }: Samples) => {
    for (let row = AREA.row - by; row < AREA.row + AREA.height + by; row++)
      for (let col = AREA.col - by; col < AREA.col + AREA.width + by; col++)
        for (let c = 0; c < 3; c++) {
          const at = 3 * (row * WIDTH + col) + c
          data[at] = Math.round(change(data[at]!, col, row))
        }
  }

function measured(frame: number, now: Samples, paintOthers?: (samples: Samples) => void): OverTime {
  const coarse = coarseFrame(now)
  const own = new Uint8Array(coarse.cols * coarse.rows)
  markCellsInto(own, coarse, runsOf(new Uint8Array(AREA.width * AREA.height).fill(1)), AREA)
  const others = lagsAround(frame, 0, 40).map((other) => ({
    coarse: coarseFrame(frameAt(other, paintOthers)),
    motions: [translationBy(3 * (frame - other), 0)],
  }))
  return measureOverTime(coarse, { own, all: own, expected: new Uint8Array(own.length) }, others)!
}

test('what was mended well differs by no more than its surroundings, and is as sharp and as grainy as on other frames', () => {
  const { inside, beside, usualE, sharpness, grain } = measured(20, frameAt(20))
  expect(usualE).toBeLessThan(1)
  expect(inside!.e).toBeLessThan(1.5)
  expect(beside!.e).toBeLessThan(1.5)
  expect(sharpness).toBeCloseTo(1, 1)
  expect(grain).toBeCloseTo(1, 0)
})

test('a fill that is too dark differs inside, what is left of a thing beside, each at its place', () => {
  const dark = measured(
    20,
    frameAt(
      20,
      inArea((value) => 0.8 * value),
    ),
  )
  expect(dark.inside!.e).toBeGreaterThan(5)
  expect(dark.inside!.x).toBeGreaterThan(AREA.col)
  expect(dark.inside!.x).toBeLessThan(AREA.col + AREA.width)
  const left = measured(
    20,
    frameAt(
      20,
      inArea((value, col) => (col >= AREA.col + AREA.width ? 20 : value), 6),
    ),
  )
  expect(left.beside!.e).toBeGreaterThan(5)
  expect(left.beside!.x).toBeGreaterThan(AREA.col + AREA.width - COARSE_PX)
})

test('a soft fill is told by its structure; light that changes for all is nobody’s fault', () => {
  const soft = measured(
    20,
    frameAt(
      20,
      inArea(() => 120),
    ),
  )
  expect(soft.sharpness).toBeLessThan(0.75)
  expect(soft.grain).toBeLessThan(0.3)
  const dim = measured(
    20,
    frameAt(20, ({ data }) => data.forEach((value, i) => (data[i] = Math.round(0.8 * value)))),
  )
  expect(dim.inside!.e).toBeLessThan(1.5)
})

test('what passes by, and reaches far beyond the area, is not told of the area', () => {
  const passing = measured(
    20,
    frameAt(20, ({ data }) => {
      for (let row = 40; row < 130; row++) for (let col = AREA.col + AREA.width; col < 220; col++) data.fill(250, 3 * (row * WIDTH + col), 3 * (row * WIDTH + col) + 3) // prettier-ignore
    }),
  )
  expect(passing.inside!.e).toBeLessThan(2.5)
  expect(passing.beside!.e).toBeGreaterThan(20)
})

test('one frame tells nothing; lags stay within the shot', () => {
  const coarse = coarseFrame(frameAt(3))
  const own = new Uint8Array(coarse.cols * coarse.rows).fill(1, 2000, 2010)
  expect(
    measureOverTime(coarse, { own, all: own, expected: own }, [{ coarse, motions: [translationBy(0, 0)] }]),
  ).toBeNull()
  expect(lagsAround(1006, 1001, 1016)).toEqual([1002, 1010, 1014])
  expect(Math.max(...lagsAround(500, 0, 1000).map((other) => Math.abs(other - 500)))).toBe(FARTHEST_LAG)
  expect(expectedAround(10)).toEqual([6, 14])
})

test('cells are means; fine structure is none on a slope', () => {
  const samples = createSamples(9, 6, 3, 8)
  for (let i = 0; i < 54; i++) samples.data.fill(10 * (i % 9), 3 * i, 3 * i + 3)
  const { cols, rows, values } = coarseFrame(samples)
  expect([cols, rows]).toEqual([3, 2])
  expect(values[1]).toBe(Math.floor((10 * 65535) / 255))
  expect(Array.from({ length: 6 }, (_, cell) => values[COARSE_VALUES * cell + 3])).toEqual([0, 0, 0, 0, 0, 0])
})
