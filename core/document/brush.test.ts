import { createRandom } from '../../tests/random'
import { areaSchema } from './areas'
import {
  brushSchema,
  DEFAULT_BRUSH,
  LAYS,
  laysOf,
  lifeOf,
  steadied,
  strokeArea,
  tipWidthPx,
  type BrushSettings,
  type Lays,
} from './brush'

const span = { firstFrame: 1, lastFrame: 48 }
const draw = (count: number) =>
  Array.from({ length: count }, (_, i) => ({
    x: i,
    y: 20 * Math.sin(i / 15),
    pressure: 0.6 + 0.4 * Math.cos(i / 9),
  }))

test.each(Object.keys(LAYS) as Lays[])(
  'a stroke that lays %s is a valid area with the fill of that name',
  (lays) => {
    const area = strokeArea('a', draw(50), { ...DEFAULT_BRUSH, lays }, 12, span)
    expect(areaSchema.safeParse(area).error).toBeUndefined()
    expect(laysOf(area.stroke)).toBe(lays)
    expect(area.stroke.source === null).toBe(lays !== 'clone' && lays !== 'heal')
  },
)

test('settings of the brush go into the fill that has them, and no others', () => {
  const settings = { ...DEFAULT_BRUSH, radiusPx: 3, stops: -1 }
  expect(strokeArea('a', draw(2), { ...settings, lays: 'soften' }, 1, span).stroke.fill.params).toEqual({
    radiusPx: 3,
  })
  expect(strokeArea('a', draw(2), { ...settings, lays: 'light' }, 1, span).stroke.fill.params).toEqual({
    stops: -1,
  })
})

test('long drawings keep their form with as many points as a path holds', () => {
  const points = draw(900)
  const kept = strokeArea('a', points, DEFAULT_BRUSH, 1, span).keys[0]!.points
  expect(kept.length).toBeLessThanOrEqual(64)
  for (const { x, y, pressure } of points) {
    const at = kept.findIndex((one) => one.x >= x)
    const [a, b] = [kept[Math.max(0, at - 1)]!, kept[at]!]
    const share = b.x > a.x ? (x - a.x) / (b.x - a.x) : 0
    expect(Math.abs(a.y + share * (b.y - a.y) - y)).toBeLessThan(6)
    expect(Math.abs(a.widthPx + share * (b.widthPx - a.widthPx) - 40 * pressure)).toBeLessThan(6)
  }
})

test('a dab is a path with a length; so is a stroke that ends where it began', () => {
  const random = createRandom(3)
  const there = { x: 10, y: 12, pressure: 1 }
  for (const points of [
    [there],
    [there, there],
    [there, { x: 10 + random() * 0.1, y: 12, pressure: 1 }, there],
  ]) {
    const kept = strokeArea('a', points, DEFAULT_BRUSH, 1, span).keys[0]!.points
    expect(kept).toHaveLength(2)
    expect(kept[0]!.x).not.toBe(kept[1]!.x)
  }
})

test('lives say on which frames; ramps only where there is something beyond', () => {
  const life = (lives: BrushSettings['lives'], lastsFrames = 5) =>
    lifeOf({ lives, lastsFrames, rampFrames: 3 }, 10, span)
  expect(life('frame')).toEqual({ firstFrame: 10, lastFrame: 10, rampInFrames: 3, rampOutFrames: 3 })
  expect(life('some')).toEqual({ firstFrame: 10, lastFrame: 14, rampInFrames: 3, rampOutFrames: 3 })
  expect(life('some', 100)).toMatchObject({ firstFrame: 10, lastFrame: 48, rampOutFrames: 0 })
  expect(life('onwards')).toEqual({ firstFrame: 10, lastFrame: 48, rampInFrames: 3, rampOutFrames: 0 })
  expect(life('before')).toEqual({ firstFrame: 1, lastFrame: 10, rampInFrames: 0, rampOutFrames: 3 })
  expect(life('span')).toEqual({ firstFrame: 1, lastFrame: 48, rampInFrames: 0, rampOutFrames: 0 })
})

test('the brush as it starts is a valid one', () => {
  expect(brushSchema.parse(DEFAULT_BRUSH)).toEqual(DEFAULT_BRUSH)
})

test('on a string a hand that shakes draws a calm line, which ends where it was let go', () => {
  const random = createRandom(6)
  const shaken = Array.from({ length: 200 }, (_, i) => ({ x: i, y: 8 * (random() - 0.5), pressure: 1 }))
  const roughness = (points: readonly { readonly x: number; readonly y: number }[]) => {
    let [sum, last] = [0, points[0]!]
    for (const point of points) {
      sum += Math.abs(point.y - last.y)
      last = point
    }
    return sum
  }
  const calm = steadied(shaken, 20)
  expect(roughness(calm.slice(0, -1))).toBeLessThan(0.2 * roughness(shaken))
  expect(calm.at(-1)).toEqual(shaken.at(-1))
  expect(steadied(shaken, 0)).toBe(shaken)
  expect(steadied(shaken.slice(0, 2), 50)).toEqual(shaken.slice(0, 2))
  // A corner that is wider than the string stays one.
  const corner = [...Array.from({ length: 50 }, (_, i) => ({ x: 4 * i, y: 0, pressure: 1 })), ...Array.from({ length: 50 }, (_, i) => ({ x: 200, y: 4 * i, pressure: 1 }))] // prettier-ignore
  expect(Math.min(...steadied(corner, 10).map(({ x, y }) => Math.hypot(x - 200, y)))).toBeLessThan(12)
})

test('a pen that leans has a wider tip, between upright and flat; lightly pressed it has a narrow one', () => {
  const wide = (pressure: number, lean?: number) =>
    tipWidthPx({ pressure, lean }, { sizePx: 40, leanWidth: 3 })
  expect(wide(1)).toBe(40)
  expect(wide(1, 0.5)).toBe(80)
  expect(wide(0.5, 1)).toBe(60)
  expect(wide(0)).toBe(4)
  expect(tipWidthPx({ pressure: 1, lean: 1 }, { sizePx: 300, leanWidth: 8 })).toBe(400)
  const leaned = [0, 5, 10].map((x) => ({ x, y: 0, pressure: 1, lean: 1 }))
  const { points } = strokeArea('a', leaned, { ...DEFAULT_BRUSH, leanWidth: 2, steadyPx: 3 }, 1, span)
    .keys[0]!
  expect(points.map(({ widthPx }) => widthPx)).toEqual(points.map(() => 80))
})
