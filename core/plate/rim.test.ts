import { createRandom } from '../../tests/random'
import { createRaster } from '../image/raster'
import { planesWith, ROOMY_BYTES } from '../../tests/fixtures/samplePlaces'
import { withKernelMemory } from '../kernels/memory'
import { kernels } from '../kernels/module'
import { beginComparison, compareShown, endComparison, NOT_SHOWN, openRim, readComparison } from './rim'
import { findRimSamples, readVote, vote } from './rimConsistency'

interface Shown {
  readonly values: readonly (readonly number[])[]
  readonly kept: readonly number[]
}

const [WIDTH, HEIGHT] = [60, 40]
const DEVIATION = 0.01

/** A path from top to bottom, 10 px wide, and 6 px of plate to either side. */
const isHidden = (col: number) => col >= 25 && col < 35
const isRim = (col: number) => col >= 19 && col < 41 && !isHidden(col)
const pixelsWhere = (isWanted: (col: number, row: number) => boolean) =>
  Int32Array.from(
    Array.from({ length: WIDTH * HEIGHT }, (_, pixel) => pixel).filter((pixel) =>
      isWanted(pixel % WIDTH, Math.floor(pixel / WIDTH)),
    ),
  )
const [hidden, rimPixels] = [pixelsWhere(isHidden), pixelsWhere(isRim)]
const depths = Float32Array.from(hidden, (pixel) => Math.min((pixel % WIDTH) - 24, 35 - (pixel % WIDTH)))

const random = createRandom(3)
const grain = () => DEVIATION * (random() + random() + random() + random() - 2) * Math.sqrt(3)
const picture = createRaster(WIDTH, HEIGHT, 3)
for (let i = 0; i < picture.data.length; i++) picture.data[i] = 0.5 + grain()

/** The same picture with other grain; below some row it shows something else by so much. */
function shown(off: number, fromRow: number, over: (pixel: number) => number = () => 1): Shown {
  const rows = Array.from(rimPixels, (pixel) => Math.floor(pixel / WIDTH))
  return {
    values: rows.map((row) => [0, 1, 2].map(() => 0.5 + grain() + (row >= fromRow ? off : 0))),
    kept: Array.from(rimPixels, over),
  }
}

const compared = (all: readonly Shown[], told: Uint8Array | null = null) =>
  withKernelMemory(ROOMY_BYTES, (scope) => {
    const rim = openRim(scope, rimPixels, picture)
    beginComparison(rim, [DEVIATION, DEVIATION, DEVIATION])
    const toldAt = told ? scope.pointerTo(told) : 0
    all.forEach(({ values, kept }, index) =>
      compareShown(rim, planesWith(scope, values, kept), index, toldAt),
    )
    const count = endComparison(rim)
    const read = readComparison(rim)
    expect(read.differs.filter((one) => one === 1)).toHaveLength(count)
    return read
  })
const compare = (...all: Shown[]) => compared(all)
const shareOf = (list: Uint8Array, value: number) =>
  list.reduce((sum, one) => sum + (one === value ? 1 : 0), 0) / list.length

test('grain alone is no difference; ten deviations are, and the edge between is where it is, to a window', () => {
  expect(shareOf(compare(shown(0, 0)).differs, 0)).toBe(1)
  const { differs } = compare(shown(0.1, 20))
  rimPixels.forEach((pixel, k) => {
    const row = Math.floor(pixel / WIDTH)
    if (row < 18) expect(differs[k]).toBe(0)
    if (row >= 22) expect(differs[k]).toBe(1)
  })
})

test('of several, the one that agrees is chosen; what shows nothing has no verdict', () => {
  const { best, differs } = compare(shown(0.1, 20), shown(-0.1, 0))
  rimPixels.forEach((pixel, k) => {
    const row = Math.floor(pixel / WIDTH)
    if (row < 17) expect([best[k], differs[k]]).toEqual([0, 0])
    if (row >= 23) expect(differs[k]).toBe(1)
  })
  const half = compare(shown(0, 0, (pixel) => (pixel % WIDTH < 30 ? -1 : 1)))
  rimPixels.forEach((pixel, k) => expect(half.differs[k]).toBe(pixel % WIDTH < 30 ? NOT_SHOWN : 0))
})

test('what a place is said to belong to is kept when another is only a little more alike, not when it differs', () => {
  const told = new Uint8Array(rimPixels.length).fill(1)
  const of = (...all: Shown[]) => compared(all, told).best
  expect(shareOf(of(shown(0, 0), shown(0.004, 0)), 1)).toBeGreaterThan(0.97)
  expect(shareOf(of(shown(0, 0), shown(0.1, 0)), 0)).toBe(1)
})

describe('what samples of the rim say of places inside', () => {
  const verdicts = (of: (col: number, row: number) => number) =>
    Uint8Array.from(rimPixels, (pixel) => of(pixel % WIDTH, Math.floor(pixel / WIDTH)))

  /** 1 for each hidden place that is not believed; null where nothing speaks against any. */
  const inconsistent = (given: Uint8Array, deep = depths) =>
    withKernelMemory(ROOMY_BYTES, (scope) => {
      const rim = openRim(scope, rimPixels, picture)
      const samples = findRimSamples(scope, picture, hidden, deep, rim)
      new Uint8Array(kernels().memory.buffer, rim.verdicts, rim.count).set(given)
      return vote(samples, rim.verdicts, given.filter((one) => one === 1).length) ? readVote(samples) : null
    })

  test('where both sides differ nothing is believed; where one does, its half is not', () => {
    const below = inconsistent(verdicts((_, row) => (row >= 20 ? 1 : 0)))!
    hidden.forEach((pixel, k) => {
      const row = Math.floor(pixel / WIDTH)
      if (row < 15) expect(below[k]).toBe(0)
      if (row >= 25) expect(below[k]).toBe(1)
    })
    const left = inconsistent(verdicts((col) => (col < 30 ? 1 : 0)))!
    hidden.forEach((pixel, k) => {
      // Halfway it may fall either way.
      if (Math.abs((pixel % WIDTH) - 29.5) > 2) expect(left[k]).toBe(pixel % WIDTH < 30 ? 1 : 0)
    })
  })

  test('those that saw nothing are not asked; a few that differ are chance', () => {
    const oneSide = inconsistent(verdicts((col) => (col < 30 ? 1 : NOT_SHOWN)))!
    // The right edge has samples on the far side only.
    expect(shareOf(oneSide, 1)).toBeGreaterThan(0.7)
    let left = 8
    expect(inconsistent(verdicts(() => (left-- > 0 ? 1 : 0)))).toBeNull()
  })

  test('deep inside nobody has a say', () => {
    const deep = inconsistent(
      verdicts(() => 1),
      depths.map(() => 30),
    )
    expect(deep?.includes(1) ?? false).toBe(false)
  })
})
