import { createRandom } from '../../tests/random'
import { clipFrame, noiseOf, paintDiscs } from '../../tests/fixtures/sampleClip'
import { surveyScene } from '../../tests/fixtures/sceneSurvey'

const [WIDTH, HEIGHT] = [400, 240]
const NOISE = noiseOf(createRandom(17))

interface Mark {
  readonly left: number
  readonly top: number
  readonly opacity: number
}
const [COLS, ROWS] = [64, 22]
/** Bars, as letters are: five across, and one along the foot. */
const isInk = (col: number, row: number): boolean => row >= 18 || Math.floor(col / 6) % 2 === 0

function marksOf(seed: number, marks: readonly Mark[], pxAFrame: number, frames = 30) {
  const random = createRandom(seed)
  const painting = paintDiscs(WIDTH + 300, HEIGHT + 20, 700, random)
  const survey = surveyScene({ width: WIDTH, height: HEIGHT, channels: 3 }, 1)
  for (let frame = 0; frame < frames; frame++) {
    const place = {
      width: WIDTH,
      height: HEIGHT,
      x: 3 + pxAFrame * frame,
      row: 10,
      grain: 1.5,
      noiseFrom: Math.floor(random() * NOISE.length),
    }
    survey.add(
      clipFrame(painting, NOISE, place, null, (values) => {
        for (const { left, top, opacity } of marks) {
          for (let row = 0; row < ROWS; row++) {
            for (let col = 0; col < COLS; col++) {
              if (!isInk(col, row)) continue
              for (let c = 0; c < 3; c++) {
                const at = ((top + row) * WIDTH + left + col) * 3 + c
                values[at] = values[at]! * (1 - opacity) + 235 * opacity
              }
            }
          }
        }
      }),
    )
  }
  return survey.finish().survey.finds
}

test.each([0.25, 0.5, 0.9])(
  'a mark that hides %d of a moving picture is found with its box and about what it hides',
  (opacity) => {
    const finds = marksOf(5, [{ left: 40, top: 180, opacity }], 7)
    expect(finds).toHaveLength(1)
    const [find] = finds
    if (find?.kind !== 'mark') throw new Error('no mark')
    expect(Math.abs(find.x - (40 + COLS / 2))).toBeLessThan(4)
    expect(Math.abs(find.y - (180 + ROWS / 2))).toBeLessThan(4)
    expect(Math.abs(find.widthPx - COLS)).toBeLessThan(8)
    expect(Math.abs(find.heightPx - ROWS)).toBeLessThan(8)
    expect(Math.abs(find.opacity - opacity)).toBeLessThan(0.2)
    expect(find.why).toContain('Stays sharp while the picture moves')
  },
)

test('two marks are two finds; none, none', () => {
  expect(marksOf(6, [{ left: 40, top: 180, opacity: 0.5 }, { left: 280, top: 40, opacity: 0.4 }], 7).map(({ kind }) => kind)).toEqual(['mark', 'mark']) // prettier-ignore
  for (const seed of [7, 8, 9]) expect(marksOf(seed, [], 7)).toEqual([])
})

test('a picture that hardly moves keeps things of its own sharp: nothing is called a mark', () => {
  expect(marksOf(5, [{ left: 40, top: 180, opacity: 0.5 }], 0.8)).toEqual([])
})
