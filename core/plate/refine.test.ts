import { createRandom } from '../../tests/random'
import { apply, compose, translationBy, type Matrix3 } from '../geometry/transform'
import { paintRaster } from '../../tests/fixtures/sampleInput'
import { wavesAt } from '../../tests/fixtures/sampleScene'
import { withKernelMemory } from '../kernels/memory'
import { openFrame, openFrameBytes, type GatherFrame } from './reading'
import { brightnessOf, refineMotion, type Anchors } from './refine'
import { fitToneField, relight } from './toneField'

const [WIDTH, HEIGHT] = [160, 120]
const random = createRandom(21)

/** This frame's texture, seen through a motion, brighter by a gain and an offset, with grain. */
function otherFrame(thereFromHere: Matrix3, gain: number, offset: number, grain = 0): GatherFrame {
  // The way back of an affine motion, by Cramer's rule.
  const [a, b, c, d, e, f] = thereFromHere
  const determinant = a * e - b * d
  const picture = paintRaster(WIDTH, HEIGHT, (x, y, channel) => {
    const [px, py] = [x - c, y - f]
    const value = wavesAt((e * px - b * py) / determinant, (a * py - d * px) / determinant, channel, 8)
    return gain * value + offset + grain * (random() - 0.5)
  })
  return {
    frame: 2,
    picture,
    rect: { col: 0, row: 0, width: WIDTH, height: HEIGHT },
    taboo: null,
    layersFromHere: [],
  }
}

/** A ring of places, as around an area. */
function anchorsAround(): Anchors {
  const places: number[] = []
  for (let y = 20.5; y < HEIGHT - 20; y += 2) {
    for (let x = 30.5; x < WIDTH - 30; x += 2) {
      const away = Math.sqrt((x - 80) * (x - 80) + (y - 60) * (y - 60))
      if (away > 22 && away < 48) places.push(x, y)
    }
  }
  const at = (x: number, y: number) => (wavesAt(x, y, 0, 8) + wavesAt(x, y, 1, 8) + wavesAt(x, y, 2, 8)) / 3
  const each = (of: (x: number, y: number) => number) =>
    Float32Array.from({ length: places.length / 2 }, (_, k) => of(places[2 * k]!, places[2 * k + 1]!))
  return {
    places: Float32Array.from(places),
    values: each(at),
    slopesX: each((x, y) => (at(x + 1, y) - at(x - 1, y)) / 2),
    slopesY: each((x, y) => (at(x, y + 1) - at(x, y - 1)) / 2),
  }
}

const anchors = anchorsAround()
const every = Int32Array.from(anchors.values, (_, k) => k)
const refined = (frame: GatherFrame, start: Matrix3, which = every) =>
  withKernelMemory(openFrameBytes(frame, every.length), (scope) =>
    refineMotion(anchors, which, openFrame(frame, scope), start, 3),
  )

describe('registering on the plate around an area', () => {
  const truth: Matrix3 = [1.004, -0.006, 2.3, 0.005, 0.998, -1.7, 0, 0, 1]

  test('finds shift, turn and scale from a start that is a pixel off, whatever the light', () => {
    const found = refined(otherFrame(truth, 0.8, 0.07, 0.02), compose(translationBy(0.8, -0.7), truth))!
    for (const [x, y] of [
      [50, 40],
      [80, 60],
      [110, 85],
    ] as const) {
      const [a, b] = [apply(found.thereFromHere, x, y), apply(truth, x, y)]
      expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeLessThan(0.03)
    }
    expect(found.inside).toBe(1)
  })

  test('frames that lie pixel on pixel stay so', () => {
    expect(
      refined(otherFrame([1, 0, 3, 0, 1, -2, 0, 0, 1], 1, 0, 0.02), translationBy(3, -2))!.thereFromHere,
    ).toEqual(translationBy(3, -2))
  })

  test('gives up where too little can be read, or it would lead far away', () => {
    const frame = otherFrame([1, 0, 0, 0, 1, 0, 0, 0, 1], 1, 0)
    expect(refined(frame, translationBy(150, 0))).toBeNull()
    expect(refined(frame, translationBy(0, 0), every.slice(0, 20))).toBeNull()
  })
})

test('brightness is the mean of the colours', () => {
  expect(
    [...brightnessOf(Float32Array.of(0.1, 0.2, 0.6, 1, 1, 1), 3)].map((one) => Number(one.toFixed(6))),
  ).toEqual([0.3, 1])
  expect([...brightnessOf(Float32Array.of(0.25, 0.5), 1)]).toEqual([0.25, 0.5])
})

describe('light', () => {
  const places = anchors.places
  const box = { x: 80, y: 60, halfPx: 50 }
  const here = Float32Array.from({ length: 3 * every.length }, (_, i) =>
    wavesAt(places[2 * ((i / 3) | 0)]!, places[2 * ((i / 3) | 0) + 1]!, i % 3, 8),
  )
  const gainAt = (x: number, y: number, c: number) =>
    1.1 + 0.05 * c + 0.12 * ((x - 80) / 50) - 0.07 * ((y - 60) / 50) * ((y - 60) / 50)
  const there = here.map(
    (value, i) => value / gainAt(places[2 * ((i / 3) | 0)]!, places[2 * ((i / 3) | 0) + 1]!, i % 3),
  )
  const kept = new Float32Array(every.length).fill(1)

  test('that falls off over the place is brought over, also inside the ring that it was measured on', () => {
    const field = fitToneField(places, here, there, kept, 3, box)!
    const middle = Float32Array.of(80.5, 60.5)
    const values = Float32Array.from([0, 1, 2], (c) => 0.4 / gainAt(80.5, 60.5, c))
    relight(field, middle, values, 3)
    for (const value of values) expect(value).toBeCloseTo(0.4, 2)
  })

  test('is not misled by a tenth of the places that show something else', () => {
    const spoiled = there.map((value, i) => (((i / 3) | 0) % 10 === 0 ? 0.95 : value))
    const field = fitToneField(places, here, spoiled, kept, 3, box)!
    const values = spoiled.slice()
    relight(field, places, values, 3)
    let worst = 0
    for (let i = 0; i < values.length; i++)
      if (((i / 3) | 0) % 10 !== 0) worst = Math.max(worst, Math.abs(values[i]! - here[i]!))
    expect(worst).toBeLessThan(0.01)
  })

  test('cannot be told from a few places', () => {
    expect(fitToneField(places, here, there, new Float32Array(every.length).fill(-1), 3, box)).toBeNull()
  })
})

test('anchors to one side, few and flat, do not bend what lies on the other: the scene’s motion is believed there', () => {
  const right = every.filter((k) => anchors.places[2 * k]! > 112)
  expect(right.length).toBeGreaterThan(60)
  const start = translationBy(3, -2)
  const frame = otherFrame(start, 1, 0, 0.08)
  const found = refined(frame, start, right)
  const at = apply(found?.thereFromHere ?? start, 40, 60)
  expect(Math.hypot(at.x - 43, at.y - 58)).toBeLessThan(0.4)
})
