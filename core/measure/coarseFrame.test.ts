import { createSamples, type Samples } from '../image/samples'
import { createRandom } from '../../tests/random'
import { COARSE_PX, COARSE_VALUES, coarseFrame, markCellsInto } from './coarseFrame'

function noisy(width: number, height: number, channels: number, bits: 8 | 16): Samples {
  const random = createRandom(5)
  const samples = createSamples(width, height, channels, bits)
  for (let i = 0; i < samples.data.length; i++) samples.data[i] = random() * (bits === 8 ? 256 : 65536)
  return samples
}

/** As it is told: mean colours of nine px, and the mask of Immerkær (1996) on the middle one. */
function plainly({ width, channels, data }: Samples, col: number, row: number): number[] {
  const scale = 65535 / (data instanceof Uint8Array ? 255 : 65535)
  const [g, b] = channels >= 3 ? [1, 2] : [0, 0]
  const at = (x: number, y: number, c: number) => data[((3 * row + y) * width + 3 * col + x) * channels + c]!
  const mean = (c: number) => {
    let sum = 0
    for (let y = 0; y < 3; y++) for (let x = 0; x < 3; x++) sum += at(x, y, c)
    return (scale * sum) / 9
  }
  const mask = [1, -2, 1, -2, 4, -2, 1, -2, 1]
  const fine = mask.reduce((sum, weight, i) => sum + weight * at(i % 3, Math.floor(i / 3), g), 0)
  return [mean(0), mean(g), mean(b), Math.min(65535, scale * Math.abs(fine))].map(Math.floor)
}

test.each([
  [3, 8],
  [3, 16],
  [4, 8],
  [1, 8],
] as const)('cells of %i channels at %i bits are what they are told to be', (channels, bits) => {
  // prettier-ignore
  const samples = noisy(20, 13, channels, bits)
  const { cols, rows, values } = coarseFrame(samples)
  expect([cols, rows]).toEqual([6, 4]) // what is left over is in none
  for (let row = 0; row < rows; row++)
    for (let col = 0; col < cols; col++) {
      const at = COARSE_VALUES * (row * cols + col)
      expect(Math.max(...plainly(samples, col, row).map((value, i) => Math.abs(value - values[at + i]!)))).toBeLessThanOrEqual(1) // prettier-ignore
    }
})

test('cells that runs touch are marked, those beyond the picture are not', () => {
  const cells = new Uint8Array(6 * 4)
  const at = { col: 2, row: 2, width: 8, height: 2 }
  // The last px of the first line, then all of the second one.
  markCellsInto(cells, { cols: 6, rows: 4 }, Int32Array.of(7, 9), at)
  const marked = [...cells.keys()].filter((cell) => cells[cell] === 1)
  expect(marked).toEqual([3, 6, 7, 8, 9])
  const outside = new Uint8Array(6 * 4)
  markCellsInto(outside, { cols: 6, rows: 4 }, Int32Array.of(0, 4), { col: -2, row: -COARSE_PX, width: 8, height: 2 }) // prettier-ignore
  expect(Math.max(...outside)).toBe(0)
})
