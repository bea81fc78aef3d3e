import { createRandom } from '../../tests/random'
import { translationBy } from '../geometry/transform'
import { NO_LAYER } from './layerMap'
import { agreeLabels } from './layerMosaics'

const grid = { cellPx: 4, cols: 60, rows: 40 }
const FRAMES = 24
const [WALL, POST] = [0, 1]
/** A wall that goes to the left by a cell a frame, a post before it by two. */
const motions = [WALL, POST].map((layer) =>
  Array.from({ length: FRAMES }, (_, frame) => translationBy(-4 * (layer + 1) * frame, 0)),
)
const postFrom = (frame: number) => 45 - 2 * frame
const truthAt = (frame: number, col: number) =>
  col >= postFrom(frame) && col < postFrom(frame) + 8 ? POST : WALL
/** A block that stands before both, at rest. */
const isCovered = (col: number, row: number) => col >= 18 && col < 26 && row >= 10 && row < 30

function labelsOf(frame: number, wrongShare: number, fatCells: number, random: () => number): Uint8Array {
  return Uint8Array.from({ length: grid.cols * grid.rows }, (_, cell) => {
    const [col, row] = [cell % grid.cols, Math.floor(cell / grid.cols)]
    if (isCovered(col, row)) return NO_LAYER
    const isFat =
      fatCells > 0 &&
      col >= postFrom(frame) - fatCells &&
      col < postFrom(frame) + 8 + fatCells &&
      random() < 0.6
    const truth = isFat ? POST : truthAt(frame, col)
    return random() < wrongShare ? 1 - truth : truth
  })
}

const wrongOf = (frames: readonly Uint8Array[], isAsked: (col: number, row: number) => boolean) => {
  let [wrong, unknown, count] = [0, 0, 0]
  frames.forEach((labels, frame) =>
    labels.forEach((label, cell) => {
      const [col, row] = [cell % grid.cols, Math.floor(cell / grid.cols)]
      if (!isAsked(col, row)) return
      count++
      if (label === NO_LAYER) unknown++
      else if (label !== truthAt(frame, col)) wrong++
    }),
  )
  return { wrong: wrong / count, unknown: unknown / count }
}

test('frames that are right are left as they are, and what is covered is known from the others', () => {
  const random = createRandom(1)
  const frames = Array.from({ length: FRAMES }, (_, frame) => labelsOf(frame, 0, 0, random))
  const agreed = agreeLabels(grid, frames, motions, [[POST], []])
  expect(wrongOf(agreed, (col, row) => !isCovered(col, row)).wrong).toBe(0)
  const { wrong, unknown } = wrongOf(agreed, isCovered)
  expect(wrong).toBe(0)
  expect(unknown).toBeLessThan(0.05)
})

test('single errors are outvoted, and what stands in front is no longer too wide', () => {
  const random = createRandom(2)
  const frames = Array.from({ length: FRAMES }, (_, frame) => labelsOf(frame, 0.1, 2, random))
  const before = wrongOf(frames, (col, row) => !isCovered(col, row))
  const after = wrongOf(agreeLabels(grid, frames, motions, [[POST], []]), () => true)
  expect(before.wrong).toBeGreaterThan(0.12)
  expect(after.wrong).toBeLessThan(0.04)
})

test('what no frame tells stays unknown', () => {
  const nothing = Array.from({ length: FRAMES }, () => new Uint8Array(grid.cols * grid.rows).fill(NO_LAYER))
  expect(
    agreeLabels(grid, nothing, motions, [[POST], []]).every((labels) =>
      labels.every((label) => label === NO_LAYER),
    ),
  ).toBe(true)
})
