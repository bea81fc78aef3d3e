import { createRandom } from '../../../tests/random'
import { IDENTITY, translationBy } from '../../geometry/transform'
import { createPlane } from '../../image/raster'
import type { Rect } from '../../image/rect'
import { Chain } from './chain'
import { energyOf, type Strangers } from './strangers'

const [WIDTH, HEIGHT] = [120, 70]
const SIZE = { width: 24, height: 10 }

/** A pattern of its own: no two of its columns are alike. */
const random = createRandom(5)
const PATTERN = Array.from({ length: SIZE.width * SIZE.height }, () => (random() < 0.4 ? 0.2 : 0))

function strangersAt(col: number, row: number, shown: (col: number) => boolean = () => true): Strangers {
  const off = createPlane(WIDTH, HEIGHT)
  for (let y = 0; y < SIZE.height; y++)
    for (let x = 0; x < SIZE.width; x++)
      if (shown(x)) off.data[(row + y) * WIDTH + col + x] = PATTERN[y * SIZE.width + x]!
  return { off, energy: energyOf(off), ground: null }
}

const windowAt = (col: number, row: number): Rect => ({
  col: col - 4,
  row: row - 4,
  width: SIZE.width + 8,
  height: SIZE.height + 8,
})
const begun = (col: number, row: number) => new Chain(1, windowAt(col, row), strangersAt(col, row).off, 5)
const lastOf = ({ last }: Chain) => [last.frame, Math.round(last.x) + 4, Math.round(last.y) + 4]

test('what was found is followed where it goes, also when it sets out at once', () => {
  const chain = begun(20, 20)
  for (const [frame, col, row] of [
    [2, 20, 20],
    [3, 34, 23],
    [4, 48, 26],
    [5, 62, 29],
    [6, 62, 29],
  ] as const) {
    expect(chain.goOn(frame, strangersAt(col, row), null, IDENTITY)).toBe(true)
    expect(lastOf(chain)).toEqual([frame, col, row])
  }
  expect(chain.places.map(({ frame }) => frame)).toEqual([1, 2, 3, 4, 5, 6])
})

test('half of it is enough to know it by', () => {
  const chain = begun(20, 20)
  chain.goOn(
    2,
    strangersAt(41, 25, (col) => col < 12),
    null,
    IDENTITY,
  )
  expect(lastOf(chain)).toEqual([2, 41, 25])
})

test('unseen for a while it comes back, for long it is given up', () => {
  const chain = begun(20, 20)
  const nothing: Strangers = {
    off: createPlane(WIDTH, HEIGHT),
    energy: energyOf(createPlane(WIDTH, HEIGHT)),
    ground: null,
  }
  for (let frame = 2; frame < 10; frame++) expect(chain.goOn(frame, nothing, null, IDENTITY)).toBe(true)
  expect(chain.goOn(10, nothing, null, IDENTITY)).toBe(false)
  expect(chain.isLive).toBe(false)
  const { off, energy } = strangersAt(70, 40)
  expect(chain.comesBack(11, { off, energy }, windowAt(70, 40))).toBe(true)
  expect(lastOf(chain)).toEqual([11, 70, 40])
  expect(chain.comesBack(12, nothing, windowAt(20, 20))).toBe(false)
})

test('followed to one side and turned round, it goes on to the other', () => {
  const chain = begun(40, 20)
  chain.goOn(0, strangersAt(30, 20), null, IDENTITY)
  chain.turnRound()
  expect(lastOf(chain)).toEqual([1, 40, 20])
  chain.goOn(2, strangersAt(50, 20), null, IDENTITY)
  expect(chain.places.map(({ frame }) => frame)).toEqual([0, 1, 2])
})

test('of a way that is the scene’s, or so many times it, nothing is its own', () => {
  const withScene = begun(20, 20)
  const alone = begun(20, 20)
  for (let step = 1; step < 5; step++) {
    withScene.goOn(step + 1, strangersAt(20 + 6 * step, 20), null, translationBy(4, 0))
    alone.goOn(step + 1, strangersAt(20, 20 + 6 * step), null, translationBy(4, 0))
  }
  expect(withScene.ownShare).toBeLessThan(0.02)
  expect(alone.ownShare).toBeGreaterThan(0.98)
  expect(withScene.sceneTravel).toBeCloseTo(16)
})

test('its extent is what is its own, and what is told both ways is not lopsided', () => {
  const chain = begun(20, 20)
  const { col, row, width, height } = chain.extent
  expect([col >= 3, row >= 3, width <= SIZE.width + 2, height <= SIZE.height + 2]).toEqual([
    true,
    true,
    true,
    true,
  ])
  expect(chain.cells).toBeGreaterThan(60)
  expect(chain.lopsided).toBeLessThan(3)
  const line = createPlane(WIDTH, HEIGHT)
  line.data.fill(0.2, 24 * WIDTH, 26 * WIDTH)
  expect(new Chain(1, windowAt(20, 20), line, 5).lopsided).toBeGreaterThan(100)
})
