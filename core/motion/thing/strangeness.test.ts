import { createSamples } from '../../image/samples'
import { IDENTITY, translationBy } from '../../geometry/transform'
import { cellMeans } from './cells'
import { strangenessOf } from './strangeness'

/** A ramp with steps, so that a shift shows. */
function ramp(shift: number, gain = 1, mark?: readonly [number, number]) {
  const out = createSamples(32, 16, 3, 8)
  for (let i = 0; i < 32 * 16; i++) {
    const [col, row] = [i % 32, Math.floor(i / 32)]
    const isMarked = mark && Math.abs(col - mark[0]) < 2 && Math.abs(row - mark[1]) < 2
    for (let c = 0; c < 3; c++)
      out.data[3 * i + c] = Math.round(gain * (isMarked ? 220 : 60 + 2 * (col - shift) + 10 * c))
  }
  return out
}
const part = { col: 0, row: 0, width: 32, height: 16 }
const none = new Uint8Array(32 * 16)
const strangeCells = (data: Float32Array) => data.filter((value) => value > 0.5).length

test('cells are means of their pixels, grey told thrice', () => {
  const grey = createSamples(4, 2, 1, 16)
  grey.data.set([0, 65535, 10, 10, 0, 65535, 10, 10])
  const { width, height, data } = cellMeans(grey, 2)
  expect([width, height]).toEqual([2, 1])
  expect([...data.slice(0, 3)].map((value) => Math.round(1000 * value))).toEqual([500, 500, 500])
})

test('what the others do not show is strange, what only moves with the background or is brighter as a whole is not', () => {
  const witnesses = [1, 2, 3, 4].map((shift) => ({
    cells: cellMeans(ramp(shift), 1),
    motion: translationBy(shift, 0),
    hidden: none,
  }))
  const at = (mark?: readonly [number, number], gain = 1) =>
    strangenessOf(cellMeans(ramp(0, gain, mark), 1), part, 1, witnesses)
  expect(strangeCells(at().data)).toBe(0)
  expect(strangeCells(at(undefined, 1.1).data)).toBe(0)
  const marked = at([10, 8], 1.1)
  expect(strangeCells(marked.data)).toBe(9)
  expect(marked.data[8 * 32 + 10]).toBe(1)
})

test('where too few frames show the background, nothing is strange', () => {
  const hidden = new Uint8Array(32 * 16).fill(1)
  const witnesses = [none, none, hidden, hidden].map((one) => ({
    cells: cellMeans(ramp(0), 1),
    motion: IDENTITY,
    hidden: one,
  }))
  expect(strangeCells(strangenessOf(cellMeans(ramp(0, 1, [10, 8]), 1), part, 1, witnesses).data)).toBe(0)
})
