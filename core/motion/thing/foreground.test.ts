import { createSamples } from '../../image/samples'
import { IDENTITY, translationBy } from '../../geometry/transform'
import { cellMeans } from './cells'
import { foregroundOf } from './foreground'

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
const foregroundCells = (data: Float32Array) => data.filter((value) => value > 0.5).length

test('cells are means of their pixels, grey told thrice', () => {
  const grey = createSamples(4, 2, 1, 16)
  grey.data.set([0, 65535, 10, 10, 0, 65535, 10, 10])
  const { width, height, data } = cellMeans(grey, 2)
  expect([width, height]).toEqual([2, 1])
  expect([...data.slice(0, 3)].map((value) => Math.round(1000 * value))).toEqual([500, 500, 500])
})

test('what the others do not show is foreground, what only moves with the background or is brighter as a whole is not', () => {
  const frames = [1, 2, 3, 4].map((shift) => ({
    cells: cellMeans(ramp(shift), 1),
    motion: translationBy(shift, 0),
    masked: none,
  }))
  const at = (mark?: readonly [number, number], gain = 1) =>
    foregroundOf(cellMeans(ramp(0, gain, mark), 1), part, 1, frames)
  expect(foregroundCells(at().data)).toBe(0)
  expect(foregroundCells(at(undefined, 1.1).data)).toBe(0)
  const marked = at([10, 8], 1.1)
  expect(foregroundCells(marked.data)).toBe(9)
  expect(marked.data[8 * 32 + 10]).toBe(1)
})

test('where too few frames show the background, nothing is foreground', () => {
  const masked = new Uint8Array(32 * 16).fill(1)
  const frames = [none, none, masked, masked].map((one) => ({
    cells: cellMeans(ramp(0), 1),
    motion: IDENTITY,
    masked: one,
  }))
  expect(foregroundCells(foregroundOf(cellMeans(ramp(0, 1, [10, 8]), 1), part, 1, frames).data)).toBe(0)
})
