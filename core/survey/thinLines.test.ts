import { createRandom } from '../../tests/random'
import type { Samples } from '../image/samples'
import { clipFrame, noiseOf, paintDiscs, type Painting } from '../../tests/fixtures/sampleClip'
import { surveyScene } from '../../tests/fixtures/sceneSurvey'
import type { Survey } from './finds'

const { abs, max, min } = Math
const [WIDTH, HEIGHT] = [480, 320]
const FRAMES = 30
const random = createRandom(8)
const NOISE = noiseOf(random)
const PAINTING = paintDiscs(WIDTH + 160, HEIGHT + 20, 700, random)

/** Where a line is in each row on a frame; null where it is not. */
type Line = (frame: number, y: number) => number | null

/** A wire from above the frame that swings by itself. */
const swinging: Line = (frame, y) => (y < 230 ? 200 + 0.2 * y + 0.09 * y * Math.sin(frame / 9) : null)
const WIRE_PX = 5

/** Lays a dark line over code values, with the share of each pixel that it covers. */
function layLine(values: Float32Array, placeAt: (y: number) => number | null): void {
  for (let row = 0; row < HEIGHT; row++) {
    const place = placeAt(row + 0.5)
    if (place === null) continue
    for (let col = max(0, (place - 6) | 0); col < min(WIDTH, place + 7); col++) {
      const cover = max(0, min(1, WIRE_PX / 2 + 0.5 - abs(col + 0.5 - place)))
      for (let c = 0; c < 3; c++)
        values[(row * WIDTH + col) * 3 + c]! += cover * (30 - values[(row * WIDTH + col) * 3 + c]!)
    }
  }
}

const turned = ({ width, height, data }: Samples): Samples => {
  const out = { width: height, height: width, channels: 3, data: new Uint8Array(data.length) }
  for (let row = 0; row < height; row++) {
    for (let col = 0; col < width; col++)
      for (let c = 0; c < 3; c++) out.data[(col * height + row) * 3 + c] = data[(row * width + col) * 3 + c]!
  }
  return out
}

/** @param pan  px a frame. */
function surveyOf(
  line: Line | null,
  pan: number,
  painting: Painting = PAINTING,
  turn = (samples: Samples): Samples => samples,
  frames = FRAMES,
): Survey {
  let survey: ReturnType<typeof surveyScene> | null = null
  for (let i = 0; i < frames; i++) {
    const at = { width: WIDTH, height: HEIGHT, x: 4 + pan * i, row: 8, grain: 1.5, noiseFrom: 7919 * i }
    const frame = turn(
      clipFrame(painting, NOISE, at, null, (values) => line && layLine(values, (y) => line(i, y))),
    )
    survey ??= surveyScene(frame, 1001)
    survey.add(frame)
  }
  return survey!.finish().survey
}

const linesOf = ({ finds }: Survey) => finds.flatMap((find) => (find.kind === 'line' ? [find] : []))

/** Points that are in the picture, and how far each is from the line across. */
const offsOf = (key: ReturnType<typeof linesOf>[number]['keys'][number], line: Line) =>
  key.points.flatMap(({ x, y }) =>
    y < 2 || line(key.frame - 1001, y) === null ? [] : [abs(x - line(key.frame - 1001, y)!)],
  )

test.each([
  ['the camera pans', 1.5],
  ['the camera rests', 0],
])('a wire that swings by itself is found while %s, where it is and as wide', (_, pan) => {
  const [wire, ...more] = linesOf(surveyOf(swinging, pan))
  expect(more).toEqual([])
  expect(wire).toMatchObject({ firstFrame: 1001, lastFrame: 1030 })
  expect(wire!.sure).toBeGreaterThan(0.7)
  expect(wire!.why).toContain('from outside')
  expect(wire!.keys.map(({ frame }) => frame)).toEqual([1001, 1007, 1013, 1019, 1025, 1030])
  for (const key of wire!.keys) {
    const offs = offsOf(key, swinging)
    expect(offs.length).toBeGreaterThan(5)
    expect(max(...offs)).toBeLessThan(1.5)
    expect(key.points[4]!.widthPx).toBeGreaterThan(WIRE_PX - 1.5)
    expect(key.points[4]!.widthPx).toBeLessThan(WIRE_PX + 1.5)
    // It ends where it ends: what it hangs from must not be covered.
    expect(abs(key.points.at(-1)!.y - 230)).toBeLessThan(10)
  }
})

test('lying down it is found as well', () => {
  const [wire, ...more] = linesOf(surveyOf(swinging, 0, PAINTING, turned))
  expect(more).toEqual([])
  for (const key of wire!.keys)
    expect(
      max(
        ...offsOf(
          { ...key, points: key.points.map(({ x, y, widthPx }) => ({ x: y, y: x, widthPx })) },
          swinging,
        ),
      ),
    ).toBeLessThan(1.5)
})

test('a line at rest before a locked camera may be a wire, and says that nothing tells', () => {
  const resting: Line = (_, y) => (y < 200 ? 300 - 0.1 * y : null)
  const [wire, ...more] = linesOf(surveyOf(resting, 0))
  expect(more).toEqual([])
  expect(wire).toMatchObject({ firstFrame: 1001, lastFrame: 1030, sure: 0.4, keys: [{ frame: 1001 }] })
  expect(wire!.why).toContain('nothing tells whether it belongs to the set')
  expect(max(...offsOf(wire!.keys[0]!, resting))).toBeLessThan(1.5)
  expect(abs(wire!.keys[0]!.points.at(-1)!.y - 200)).toBeLessThan(10)
  // One that does not come from outside is the set's.
  expect(linesOf(surveyOf((frame, y) => (y > 60 ? resting(frame, y) : null), 0))).toEqual([])
})

test('what is painted on the wall is no wire: it goes where the wall goes, whoever pans', () => {
  const painting = { ...PAINTING, data: PAINTING.data.slice() }
  for (const place of [120, 260, 333, 400]) {
    for (let row = 0; row < painting.height; row++)
      painting.data.fill(0.07, (row * painting.width + place) * 3, (row * painting.width + place + 5) * 3)
  }
  expect(linesOf(surveyOf(null, 1.5, painting))).toEqual([])
  expect(linesOf(surveyOf(null, 0, painting))).toEqual([])
})

test('a wire that is gone before half of the clip is found for as long as it is there', () => {
  const [wire] = linesOf(
    surveyOf((frame, y) => (frame < 25 ? swinging(frame, y) : null), 1.5, PAINTING, undefined, 48),
  )
  expect(wire).toMatchObject({ firstFrame: 1001, lastFrame: 1025 })
})
