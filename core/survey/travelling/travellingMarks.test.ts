import { createRandom } from '../../../tests/random'
import { clipFrame, noiseOf, paintDiscs } from '../../../tests/fixtures/sampleClip'
import { placeBetween } from '../../../tests/fixtures/stops'
import { apply, similarity, type Matrix3 } from '../../geometry/transform'
import { createPlane } from '../../image/raster'
import { placeOn } from '../finds'
import { levelsOf } from '../shift'
import { surveyScene } from '../../../tests/fixtures/sceneSurvey'
import { surveyMoving } from '../survey'
import { quarterStops } from '../quarter'
import { sceneLayers } from './sceneLayers'
import { energyOf, strangersOf } from './strangers'

const [WIDTH, HEIGHT] = [480, 288]
const FRAMES = 36
const random = createRandom(77)
const NOISE = noiseOf(random)
const painting = paintDiscs(WIDTH + 300, HEIGHT + 20, 900, random)

type Paint = (values: Float64Array, frame: number) => void
const frameOf = (index: number, pxAFrame: number, paint?: (values: Float64Array) => void) =>
  clipFrame(
    painting,
    NOISE,
    {
      width: WIDTH,
      height: HEIGHT,
      x: 3 + pxAFrame * index,
      row: 10,
      grain: 1.5,
      noiseFrom: index * 7919,
    },
    null,
    paint as never,
  )

function findsOf(paint: Paint, pxAFrame = 5) {
  const survey = surveyScene({ width: WIDTH, height: HEIGHT, channels: 3 }, 1)
  for (let i = 0; i < FRAMES; i++) survey.add(frameOf(i, pxAFrame, (values) => paint(values, i + 1)))
  return survey.finish().survey.finds.flatMap((find) => (find.kind === 'mark' ? find : []))
}

/** Letters of no alphabet, all unlike. */
const [COLS, ROWS] = [112, 40]
const isInk = (col: number, row: number): boolean => {
  const [letter, x, y] = [Math.floor(col / 16), col % 16, Math.floor(row / 8)]
  if (x >= 13) return false
  return x < 4 ? true : ((letter * 37 + 11) >> y) % 2 === 1
}

/** Rests, goes, rests, goes. */
const STOPS = [
  { frame: 1, x: 30, y: 40 },
  { frame: 10, x: 30, y: 40 },
  { frame: 18, x: 250, y: 120 },
  { frame: 26, x: 250, y: 120 },
  { frame: 36, x: 90, y: 210 },
] as const

const placeAt = (frame: number) => placeBetween(STOPS, frame)

const lay =
  (opacity: number, placed = placeAt): Paint =>
  (values, frame) => {
    const { x, y } = placed(frame)
    for (let row = 0; row < ROWS; row++) {
      for (let col = 0; col < COLS; col++) {
        if (!isInk(col, row)) continue
        const at = ((Math.round(y) + row) * WIDTH + Math.round(x) + col) * 3
        for (let c = 0; c < 3; c++) values[at + c] = values[at + c]! * (1 - opacity) + 235 * opacity
      }
    }
  }

test('a mark that rests and travels is one find, placed to a few px on every frame', () => {
  const marks = findsOf(lay(0.55))
  expect(marks).toHaveLength(1)
  const [mark] = marks as [(typeof marks)[number]]
  expect([mark.firstFrame, mark.lastFrame]).toEqual([1, FRAMES])
  expect(Math.abs(mark.widthPx - COLS)).toBeLessThanOrEqual(12)
  expect(Math.abs(mark.heightPx - ROWS)).toBeLessThanOrEqual(8)
  expect(mark.keys!.length).toBeLessThanOrEqual(STOPS.length + 1)
  const off = Array.from({ length: FRAMES }, (_, i) => {
    const [found, there] = [placeOn(mark, i + 1), placeAt(i + 1)]
    return Math.max(Math.abs(found.x - there.x - COLS / 2), Math.abs(found.y - there.y - ROWS / 2))
  })
  // Followed from there by its own picture, it may lie 6 px off.
  expect(Math.max(...off)).toBeLessThan(6)
})

test('a thing that hides what it passes, going straight on, is no mark', () => {
  expect(findsOf(lay(1, (frame) => ({ x: 20 + 9 * frame, y: 90 })))).toEqual([])
})

test('a mark that stays is told by the way of the scene behind it, with its one place', () => {
  const survey = surveyMoving({ width: WIDTH, height: HEIGHT, channels: 3 }, 1)
  const paint = lay(0.5, () => ({ x: 180, y: 110 }))
  for (let i = 0; i < FRAMES; i++) survey.add(frameOf(i, 3, (values) => paint(values, i + 1)))
  const { travelling } = survey.finish()
  expect(travelling).toHaveLength(1)
  const [mark] = travelling as [(typeof travelling)[number]]
  expect(mark.keys).toHaveLength(1)
  expect(Math.abs(mark.x - 180 - COLS / 2)).toBeLessThan(16) // its first letter is as bright as what goes by
  expect(Math.abs(mark.y - 110 - ROWS / 2)).toBeLessThan(10)
})

test('nothing is found where nothing travels', () => {
  expect(findsOf(() => undefined)).toEqual([])
})

test('layers are told apart, the larger first, each with its zoom', () => {
  const plane = levelsOf(quarterStops(frameOf(0, 5)))[0]!
  const zoom = similarity(1.02, 0, 0.8, -0.5)
  const near: Matrix3 = [1, 0, 3, 0, 1, 1, 0, 0, 1]
  const later = createPlane(plane.width, plane.height)
  const backFrom = (x: number, y: number) =>
    y > 0.65 * plane.height ? { x: x - 3, y: y - 1 } : { x: (x - 0.8) / 1.02, y: (y + 0.5) / 1.02 }
  for (let row = 0; row < plane.height; row++)
    for (let col = 0; col < plane.width; col++) {
      const { x, y } = backFrom(col + 0.5, row + 0.5)
      const read = (c: number, r: number) =>
        plane.data[
          Math.min(plane.height - 1, Math.max(0, r)) * plane.width + Math.min(plane.width - 1, Math.max(0, c))
        ]!
      const [c, r] = [Math.floor(x - 0.5), Math.floor(y - 0.5)]
      const [fx, fy] = [x - 0.5 - c, y - 0.5 - r]
      later.data[row * plane.width + col] =
        (1 - fy) * ((1 - fx) * read(c, r) + fx * read(c + 1, r)) +
        fy * ((1 - fx) * read(c, r + 1) + fx * read(c + 1, r + 1))
    }
  const layers = sceneLayers(plane, later, [1, 0, 1, 0, 1, 0, 0, 0, 1], 4)
  expect(layers.length).toBe(2)
  for (const [layer, truth, y] of [
    [layers[0]!, zoom, 20],
    [layers[1]!, near, 58],
  ] as const) {
    const [found, there] = [apply(layer, 60, y), apply(truth, 60, y)]
    expect(Math.abs(found.x - there.x)).toBeLessThan(0.3)
    expect(Math.abs(found.y - there.y)).toBeLessThan(0.3)
  }
})

test('a stranger is what no other frame shows; what one of them shows elsewhere is none', () => {
  const plane = (spotAt: number | null) => {
    const { width, height, data } = createPlane(40, 20)
    if (spotAt !== null)
      for (let row = 8; row < 12; row++) data.fill(0.5, row * width + spotAt, row * width + spotAt + 4)
    return { width, height, data }
  }
  const still: Matrix3 = [1, 0, 0, 0, 1, 0, 0, 0, 1]
  const { off, energy } = strangersOf(plane(8), [
    { plane: plane(20), layers: [still] },
    { plane: plane(30), layers: [still] },
  ])
  expect(off.data[9 * 40 + 9]).toBeCloseTo(0.25) // counts no more than that
  expect(off.data[9 * 40 + 21]).toBeCloseTo(0)
  expect(off.data[9 * 40 + 31]).toBeCloseTo(0)
  expect(energy.at(-1)).toBeCloseTo(16 * 0.25 * 0.25)
})

test('sums of squares are those above and to the left', () => {
  const data = Float32Array.from([1, 2, 3, 4, 5, 6])
  expect([...energyOf({ width: 3, height: 2, data })]).toEqual([0, 0, 0, 0, 0, 1, 5, 14, 0, 17, 46, 91])
})
