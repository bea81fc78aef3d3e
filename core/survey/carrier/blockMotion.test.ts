/** Blocks are found where they lie in the other frame; the range around a pixel is that of its neighbours. */
import { createSamples, type Samples } from '../../image/samples'
import { createRandom } from '../../../tests/random'
import { BLOCK_PX, blockMotion, type Sizes } from './blockMotion'
import { LIGHT_MAX, lightOf, quarterLight } from './light'
import { rangeAround } from './ranges'

const [WIDTH, HEIGHT] = [160, 128]
const ROUGH = 220
/** Softened, as a lens draws: what is rougher than cells are tells nothing in them. */
const rough = (() => {
  const random = createRandom(11)
  const noise = Float32Array.from({ length: ROUGH * ROUGH }, random)
  const out = new Uint8Array(ROUGH * ROUGH)
  for (let row = 3; row < ROUGH - 3; row++)
    for (let col = 3; col < ROUGH - 3; col++) {
      let sum = 0
      for (let j = -3; j <= 3; j++) for (let i = -3; i <= 3; i++) sum += noise[(row + j) * ROUGH + col + i]!
      out[row * ROUGH + col] = Math.min(255, Math.max(0, 128 + 900 * (sum / 49 - 0.5)))
    }
  return out
})()

/** A part of a rough wall, and on it a square that stands elsewhere. */
function frameAt(x: number, y: number, square: { readonly x: number; readonly y: number } | null): Samples {
  const out = createSamples(WIDTH, HEIGHT, 1, 8)
  for (let row = 0; row < HEIGHT; row++)
    for (let col = 0; col < WIDTH; col++) {
      const isOn = square && col >= square.x && col < square.x + 48 && row >= square.y && row < square.y + 48
      const [u, v] = isOn ? [col - square.x + 150, row - square.y + 150] : [col + x, row + y]
      out.data[row * WIDTH + col] = rough[v * ROUGH + u]!
    }
  return out
}

const sizesOf = (samples: Samples): Sizes => {
  const full = lightOf(samples)
  return { full, quarter: quarterLight(full) }
}

test('the whole picture’s shift and a thing that goes its own way are both found, to the pixel', () => {
  const from = sizesOf(frameAt(20, 10, { x: 48, y: 32 }))
  const to = sizesOf(frameAt(27, 13, { x: 58, y: 28 }))
  const { cols, dx, dy } = blockMotion(from, to, { x: -7 / 4, y: -3 / 4 })
  const at = (col: number, row: number) => [dx[row * cols + col], dy[row * cols + col]]
  for (const [col, row] of [[1, 1], [8, 1], [1, 6], [8, 6]] as const) expect(at(col, row)).toEqual([-7, -3]) // prettier-ignore
  // Blocks that lie wholly on the square: it went 10 px to the right and 4 px up.
  expect(48 % BLOCK_PX).toBe(0)
  for (const [col, row] of [[3, 2], [4, 3], [5, 4]] as const) expect(at(col, row)).toEqual([10, -4]) // prettier-ignore
})

test('a speck does not pull its block along', () => {
  const clean = frameAt(20, 10, null)
  const dirty = frameAt(24, 10, null)
  for (let row = 40; row < 46; row++) dirty.data.fill(255, row * WIDTH + 66, row * WIDTH + 72)
  const { cols, dx, dy } = blockMotion(sizesOf(dirty), sizesOf(clean), { x: 1, y: 0 })
  const block = Math.floor(42 / BLOCK_PX) * cols + Math.floor(68 / BLOCK_PX)
  expect([dx[block], dy[block]]).toEqual([4, 0])
})

test('light is the same of 8 and 16 bits, of grey and colour', () => {
  const eight = createSamples(2, 1, 3, 8)
  eight.data.set([255, 255, 255, 10, 20, 30])
  const sixteen = createSamples(2, 1, 3, 16)
  sixteen.data.set([...eight.data].map((value) => 257 * value))
  expect([...lightOf(eight).data]).toEqual([LIGHT_MAX, 80])
  expect([...lightOf(sixteen).data]).toEqual([LIGHT_MAX, 80])
  const grey = createSamples(1, 1, 1, 8)
  grey.data.set([20])
  expect([...lightOf(grey).data]).toEqual([80])
})

test('the range around each pixel is that of its 3 x 3 neighbours, as many as there are', () => {
  const random = createRandom(4)
  const [width, height] = [9, 7]
  const data = Int16Array.from({ length: width * height }, () => Math.floor(1000 * random()))
  const { low, high } = rangeAround({ width, height, data })
  for (let at = 0; at < data.length; at++) {
    const [col, row] = [at % width, Math.floor(at / width)]
    const near: number[] = []
    for (let y = Math.max(0, row - 1); y <= Math.min(height - 1, row + 1); y++)
      for (let x = Math.max(0, col - 1); x <= Math.min(width - 1, col + 1); x++)
        near.push(data[y * width + x]!)
    expect([low[at], high[at]]).toEqual([Math.min(...near), Math.max(...near)])
  }
})
