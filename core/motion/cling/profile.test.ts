import { kernels } from '../../kernels/module'
import { withKernelMemory } from '../../kernels/memory'
import { createRandom } from '../../../tests/random'
import { learnProfile } from './profile'
import { bestRuns, fitProfile } from './profileFit'
import { ACROSS_PX, ALONG_PX, type Straightened } from './ruler'

const [ROWS, MIDDLE] = [80, 100]
const WIDTH = 2 * MIDDLE + 1

/** A straightened picture: a line whose centre lies at `offset` px, of some colours across, on ground that changes along it. */
function strip(
  offsetAt: (row: number) => number,
  halfPx: number,
  across: (off: number) => number,
  groundDeviation = 0.15,
): Straightened {
  const random = createRandom(4)
  const data = new Float32Array(WIDTH * ROWS * 3)
  for (let row = 0; row < ROWS; row++) {
    const ground = Array.from({ length: 40 }, () => 0.5 + groundDeviation * 3.4 * (random() - 0.5))
    for (let column = 0; column < WIDTH; column++) {
      const off = (column - MIDDLE) * ACROSS_PX - offsetAt(row)
      const cover = Math.min(1, Math.max(0, halfPx + 0.5 - Math.abs(off)))
      const beside = ground[Math.floor(column / 6)]!
      const value = beside + cover * (across(off / halfPx) - beside) + 0.01 * (random() - 0.5)
      data.fill(value, (row * WIDTH + column) * 3, (row * WIDTH + column) * 3 + 3)
    }
  }
  return {
    raster: { width: WIDTH, height: ROWS, channels: 3, data },
    middle: MIDDLE,
    arcs: Float64Array.from({ length: ROWS }, (_, row) => row * ALONG_PX),
    isSeen: new Uint8Array(ROWS).fill(1),
  }
}
const all = (): boolean => true
/** Dark at its edges, with a highlight left of its middle: much of it is as bright as the ground. */
const shaded = (t: number) => 0.25 + 0.7 * Math.max(0, 1 - 6 * (t + 0.3) * (t + 0.3))

const dark = () => 0.15

test('a shaded rod is learned from one outer edge to the other, wherever its middle was taken to be', () => {
  for (const off of [0, 2.5, -3]) {
    const learned = learnProfile(
      strip(() => off, 9, shaded),
      new Float64Array(ROWS),
      all,
      15,
    )!
    expect(Math.abs(learned.widthPx - 18)).toBeLessThan(1)
    expect(Math.abs(learned.shiftPx - off)).toBeLessThan(0.5)
  }
})

test('on even ground a line is told by its colour; nothing at all tells nothing', () => {
  const plain = learnProfile(
    strip(
      () => 0,
      2.5,
      () => 0.2,
      0.004,
    ),
    new Float64Array(ROWS),
    all,
    8,
  )!
  expect(Math.abs(plain.widthPx - 5)).toBeLessThan(1)
  expect(
    learnProfile(
      strip(
        () => 0,
        -1,
        () => 0.5,
      ),
      new Float64Array(ROWS),
      all,
      8,
    ),
  ).toBeNull()
})

test('what was learned is found where it runs, also past a stretch where something hides it', () => {
  const { profile } = learnProfile(
    strip(() => 0, 4, dark),
    new Float64Array(ROWS),
    all,
    8,
  )!
  const offsetAt = (row: number) => 3 + 2 * Math.sin(row / 25)
  const seen = strip(offsetAt, 4, dark)
  seen.raster.data.fill(0.9, 30 * WIDTH * 3, 34 * WIDTH * 3)
  const { offsets, clarity } = fitProfile(seen, profile, 8, all, 60)
  for (let row = 0; row < ROWS; row++) expect(Math.abs(offsets[row]! - offsetAt(row))).toBeLessThan(0.4)
  const nothing = fitProfile(
    strip(() => 40, 4, dark),
    profile,
    8,
    all,
    60,
  )
  expect(nothing.clarity).toBeLessThan(0.6 * clarity)
})

test('far off, the straight run that fits best comes first', () => {
  const { profile } = learnProfile(
    strip(() => 0, 4, dark),
    new Float64Array(ROWS),
    all,
    8,
  )!
  const [best] = bestRuns(
    strip((row) => -30 + (50 * row) / (ROWS - 1), 4, dark),
    profile,
    45,
    all,
    3,
  )
  expect(Math.abs(best!.firstPx + 30)).toBeLessThan(2)
  expect(Math.abs(best!.lastPx - 20)).toBeLessThan(2)
})

test('the least chain costs no more than any of many others', () => {
  const random = createRandom(9)
  const [places, rows] = [7, 12]
  const costs = Float32Array.from({ length: places * rows }, random)
  const costOf = (chain: ArrayLike<number>) => {
    let sum = costs[chain[0]!]!
    for (let row = 1; row < rows; row++)
      sum += costs[row * places + chain[row]!]! + 0.1 * (chain[row]! - chain[row - 1]!) ** 2
    return sum
  }
  const chain = withKernelMemory(4096, (scope) => {
    const at = scope.reserve(4 * rows)
    kernels().leastChain(
      scope.pointerTo(costs),
      places,
      rows,
      0.1,
      2,
      scope.reserve(8 * places),
      scope.reserve(places * rows),
      at,
    )
    return new Int32Array(kernels().memory.buffer, at, rows).slice()
  })
  for (let row = 1; row < rows; row++) expect(Math.abs(chain[row]! - chain[row - 1]!)).toBeLessThanOrEqual(2)
  for (let tried = 0; tried < 3000; tried++) {
    const other = [Math.floor(random() * places)]
    while (other.length < rows)
      other.push(Math.min(places - 1, Math.max(0, other.at(-1)! + Math.floor(random() * 5) - 2)))
    expect(costOf(chain)).toBeLessThanOrEqual(costOf(other) + 1e-5)
  }
})

test('line costs and column sums are what reading them off gives', () => {
  const { raster } = strip((row) => row / 40, 3, shaded)
  const [columns, first, places] = [5, 90, 4]
  const random = createRandom(3)
  const levels = Float32Array.from({ length: columns * 3 }, random)
  const scales = Float32Array.from({ length: columns * 3 }, () => 20 * random())
  const weights = Float32Array.from({ length: columns }, random)
  const used = new Uint8Array(ROWS).fill(1)
  used[3] = 0
  const centres = Float64Array.from({ length: ROWS }, (_, row) => 100 + row / 20)
  withKernelMemory(raster.data.byteLength + (1 << 16), (scope) => {
    const [data, rows] = [scope.pointerTo(raster.data), scope.pointerTo(used)]
    const out = scope.take(places * ROWS).fill(-1)
    // prettier-ignore
    kernels().lineCosts(
      data, WIDTH, ROWS, 3, rows, scope.pointerTo(levels), scope.pointerTo(scales), scope.pointerTo(weights), columns, first,
      places, 2, out.byteOffset,
    )
    expect(out[3 * places]).toBe(-1)
    let expected = 0
    for (let k = 0; k < columns; k++) {
      let sum = 0
      for (let c = 0; c < 3; c++)
        sum +=
          (raster.data[(7 * WIDTH + first + 2 + k) * 3 + c]! - levels[3 * k + c]!) ** 2 * scales[3 * k + c]!
      expected += weights[k]! * Math.min(2, sum)
    }
    expect(out[7 * places + 2]).toBeCloseTo(expected, 4)
    const sums = new Float64Array(kernels().memory.buffer, scope.reserve(9 * 3 * 8), 9).fill(0)
    kernels().columnSums(
      data, WIDTH, ROWS, 3, 3, rows, scope.pointerTo(centres), 1, 0, 0, 0,
      sums.byteOffset, scope.pointerTo(new Float64Array(9)), scope.pointerTo(new Float64Array(9)),
    ) // prettier-ignore
    let middle = 0
    for (let row = 0; row < ROWS; row++) {
      const [left, share] = [Math.floor(centres[row]!), centres[row]! % 1]
      const at = (row * WIDTH + left) * 3
      if (row !== 3) middle += raster.data[at]! * (1 - share) + raster.data[at + 3]! * share
    }
    expect(sums[3]).toBeCloseTo(middle, 4)
  })
})

test('edges cost what reading them off gives, beyond the picture too; rows that are not used are left alone', () => {
  const random = createRandom(8)
  const [width, rows, first, places] = [12, 4, 1, 10]
  const slope = Float32Array.from({ length: width * rows }, () => random() - 0.5)
  const halves = Float64Array.of(1.25, 3.6, 2, 0.5)
  const used = Uint8Array.of(1, 1, 0, 1)
  const read = (row: number, column: number) => {
    const at = Math.min(Math.max(column, 0), width - 1.001)
    const [left, share] = [Math.floor(at), at % 1]
    return slope[row * width + left]! * (1 - share) + slope[row * width + left + 1]! * share
  }
  for (const fall of [-1, 1]) {
    withKernelMemory(4096, (scope) => {
      const out = scope.take(places * rows).fill(7)
      const [at, usedAt, halvesAt] = [slope, used, halves].map((array) => scope.pointerTo(array))
      const sum = kernels().edgeCosts(
        at!,
        width,
        rows,
        usedAt!,
        halvesAt!,
        first,
        places,
        fall,
        out.byteOffset,
      )
      let sizes = 0
      for (let row = 0; row < rows; row++) {
        for (let place = 0; place < places; place++) {
          const edges = [
            read(row, first + place - halves[row]!),
            fall * read(row, first + place + halves[row]!),
          ] as const
          const expected = used[row] === 0 ? 7 : -(Math.min(...edges) + 0.3 * Math.max(...edges))
          expect(out[row * places + place]).toBeCloseTo(expected, 5)
          sizes += used[row] === 0 ? 0 : Math.abs(expected)
        }
      }
      expect(sum).toBeCloseTo(sizes, 4)
    })
  }
})

test('sums of runs are what adding up their places gives, less the mean of each used row', () => {
  const random = createRandom(11)
  const [places, rows, step] = [9, 5, 2]
  const side = Math.floor((places - 1) / step) + 1
  const costs = Float32Array.from({ length: places * rows }, random)
  const used = Uint8Array.of(1, 1, 0, 1, 1)
  const sums = withKernelMemory(4096, (scope) => {
    const out = scope.take(side * side)
    kernels().runSums(scope.pointerTo(costs), places, rows, scope.pointerTo(used), step, side, out.byteOffset)
    return out.slice()
  })
  for (let i = 0; i < side; i++) {
    for (let j = 0; j < side; j++) {
      let expected = 0
      for (let row = 0; row < rows; row++) {
        if (used[row] === 0) continue
        const line = costs.subarray(row * places, (row + 1) * places)
        const place = Math.floor(step * (i + (row / (rows - 1)) * (j - i)) + 0.5)
        expected += line[place]! - line.reduce((sum, one) => sum + one, 0) / places
      }
      expect(sums[i * side + j]).toBeCloseTo(expected, 5)
    }
  }
})
