import { createRandom } from '../../tests/random'
import { createRaster } from '../image/raster'
import { inconsistent, findRimSamples } from './rimConsistency'
import { compareRim, NOT_SHOWN, openRim, type Shown } from './rim'

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
  const values = new Float32Array(rimPixels.length * 3)
  rimPixels.forEach((pixel, k) => {
    for (let c = 0; c < 3; c++)
      values[3 * k + c] = 0.5 + grain() + (Math.floor(pixel / WIDTH) >= fromRow ? off : 0)
  })
  return { values, kept: Float32Array.from(rimPixels, over) }
}
const rim = openRim(rimPixels, { width: WIDTH, height: HEIGHT })
const deviations = [DEVIATION, DEVIATION, DEVIATION]
const compare = (...all: Shown[]) => compareRim(rim, picture, all, 0, deviations)
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
  const of = (...all: Shown[]) => compareRim(rim, picture, all, 0, deviations, told).best
  expect(shareOf(of(shown(0, 0), shown(0.004, 0)), 1)).toBeGreaterThan(0.97)
  expect(shareOf(of(shown(0, 0), shown(0.1, 0)), 0)).toBe(1)
})

describe('what the witnesses say of places inside', () => {
  const rimSamples = findRimSamples(WIDTH, hidden, depths, rim)
  const verdicts = (of: (col: number, row: number) => number) =>
    Uint8Array.from(rimPixels, (pixel) => of(pixel % WIDTH, Math.floor(pixel / WIDTH)))

  test('where both sides differ nothing is believed; where one does, its half is not', () => {
    const below = inconsistent(
      rimSamples,
      verdicts((_, row) => (row >= 20 ? 1 : 0)),
    )!
    hidden.forEach((pixel, k) => {
      const row = Math.floor(pixel / WIDTH)
      if (row < 15) expect(below[k]).toBe(0)
      if (row >= 25) expect(below[k]).toBe(1)
    })
    const left = inconsistent(
      rimSamples,
      verdicts((col) => (col < 30 ? 1 : 0)),
    )!
    hidden.forEach((pixel, k) => {
      // Halfway it may fall either way.
      if (Math.abs((pixel % WIDTH) - 29.5) > 1) expect(left[k]).toBe(pixel % WIDTH < 30 ? 1 : 0)
    })
  })

  test('those that saw nothing are not asked; a few that differ are chance', () => {
    const oneSide = inconsistent(
      rimSamples,
      verdicts((col) => (col < 30 ? 1 : NOT_SHOWN)),
    )!
    // The right edge has witnesses on the far side only.
    expect(shareOf(oneSide, 1)).toBeGreaterThan(0.7)
    let left = 8
    expect(
      inconsistent(
        rimSamples,
        verdicts(() => (left-- > 0 ? 1 : 0)),
      ),
    ).toBeNull()
  })

  test('deep inside nobody has a say', () => {
    const deep = findRimSamples(
      WIDTH,
      hidden,
      depths.map(() => 30),
      rim,
    )
    expect(deep.rim).toHaveLength(0)
    expect(
      inconsistent(
        deep,
        verdicts(() => 1),
      )!.includes(1),
    ).toBe(false)
  })
})
