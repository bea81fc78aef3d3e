/** Two estimates of one thing, each with an error of its own: the weighted mean of least variance has that of neither. */
import { createRandom } from '../../../tests/random'
import { closedInput, paintRaster } from '../../../tests/fixtures/sampleInput'
import type { Gathered } from '../../plate/gatherInput'
import { weighIn, type UndonePlaces } from './weighIn'

const [WIDTH, HEIGHT] = [90, 70]
const under = paintRaster(WIDTH, HEIGHT, () => 0.5)
const input = closedInput(under, [10, 10, 80, 10, 80, 60, 10, 60])
const hidden = Int32Array.from({ length: input.field.count }, (_, i) => i).filter((i) => input.wanted[i]! > 0)
const OPACITY = 0.4

interface Errors {
  readonly undone: number
  readonly others: number
  /** So much of the mark is left in what was undone. */
  readonly left?: number
}

function weigh({ undone: ownError, others, left = 0 }: Errors) {
  const random = createRandom(7)
  const noise = (deviation: number) => 1.73 * deviation * (random() + random() + random() + random() - 2)
  const { count, pixels } = input.field
  const undone: UndonePlaces = {
    values: new Float32Array(3 * count).fill(0.5),
    grainKept: new Float32Array(count).fill(1),
    shares: new Float32Array(count),
    added: new Float32Array(3 * count),
    isDense: new Uint8Array(count),
  }
  const isMarked = (entry: number) => (pixels[entry]! % WIDTH) % 30 < 20
  const values = new Float32Array(3 * hidden.length)
  hidden.forEach((entry, k) => {
    if (isMarked(entry)) {
      undone.shares[entry] = OPACITY
      undone.grainKept[entry] = 2
    }
    for (let c = 0; c < 3; c++) {
      undone.added[3 * entry + c] = isMarked(entry) ? OPACITY : 0
      if (isMarked(entry)) undone.values[3 * entry + c]! += noise(ownError) + left * OPACITY * 0.5
      values[3 * k + c] = 0.5 + noise(others)
    }
  })
  undone.isDense[hidden[25]!] = 1
  const gathered = {
    values,
    variance: new Float32Array(hidden.length).fill(0.1),
    seen: new Float32Array(hidden.length).fill(8),
    agree: new Float32Array(hidden.length).fill(1),
    grainDeviations: [others, others, others],
  } as unknown as Gathered
  const before = undone.values.slice()
  const measure = weighIn(input, undone, gathered, hidden)!
  let [squares, places] = [0, 0]
  for (const entry of hidden) {
    if (!isMarked(entry) || undone.isDense[entry] === 1) {
      for (let c = 0; c < 3; c++) expect(undone.values[3 * entry + c]).toBe(before[3 * entry + c])
      continue
    }
    for (let c = 0; c < 3; c++) squares += (undone.values[3 * entry + c]! - 0.5) ** 2 / 3
    places++
  }
  return { measure, error: Math.sqrt(squares / places) }
}

test.each([
  { undone: 0.02, others: 0.01 },
  { undone: 0.01, others: 0.02 },
  { undone: 0.03, others: 0.03 },
])('errors of $undone and $others come out as those of their weighted mean', ({ undone, others }) => {
  const { measure, error } = weigh({ undone, others })
  const least = 1 / Math.sqrt(1 / undone ** 2 + 1 / others ** 2)
  expect(error / least).toBeLessThan(1.08)
  expect(Math.abs(measure.undone / undone - 1)).toBeLessThan(0.15)
  expect(Math.abs(measure.others / others - 1)).toBeLessThan(0.15)
  expect(Math.abs(measure.weighed / least - 1)).toBeLessThan(0.15)
})

test('a ghost of the mark shows in the difference to other frames; nothing does where there is none', () => {
  expect(weigh({ undone: 0.004, others: 0.004 }).measure.ghostSure).toBeLessThan(3)
  const { ghost, ghostSure } = weigh({ undone: 0.004, others: 0.03, left: 0.2 }).measure
  expect(ghost).toBeGreaterThan(0.05)
  expect(ghostSure).toBeGreaterThan(6)
})

test('where too little without a mark is there to tell how frames lie, nothing is weighed', () => {
  const few = hidden.slice(0, 30)
  const none = {
    values: new Float32Array(3 * input.field.count),
    grainKept: new Float32Array(input.field.count),
    shares: new Float32Array(input.field.count),
    added: new Float32Array(3 * input.field.count),
    isDense: new Uint8Array(input.field.count),
  }
  const gathered = {
    values: new Float32Array(90),
    variance: new Float32Array(30),
    seen: new Float32Array(30).fill(8),
    agree: new Float32Array(30).fill(1),
    grainDeviations: [0.01, 0.01, 0.01],
  } as unknown as Gathered
  expect(weighIn(input, none, gathered, few)).toBeNull()
})
