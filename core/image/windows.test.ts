import { createRandom } from '../../tests/random'
import { boxSums, slidingLeast, widestSquare } from './windows'

const [WIDTH, HEIGHT] = [23, 17]
const next = createRandom(9)
const map = Float32Array.from({ length: WIDTH * HEIGHT }, next)

const within = (at: number, radius: number): number[] => {
  const [col, row] = [at % WIDTH, Math.floor(at / WIDTH)]
  const found: number[] = []
  for (let y = Math.max(0, row - radius); y <= Math.min(HEIGHT - 1, row + radius); y++)
    for (let x = Math.max(0, col - radius); x <= Math.min(WIDTH - 1, col + radius); x++)
      found.push(map[y * WIDTH + x]!)
  return found
}

test.each([0, 1, 3, 6, 30])(
  'sums and least values over squares of radius %i are what looking at every pixel gives',
  (radius) => {
    const [sums, min] = [boxSums(map, WIDTH, HEIGHT, radius), slidingLeast(map, WIDTH, HEIGHT, radius)]
    for (let at = 0; at < map.length; at++) {
      const values = within(at, radius)
      expect(sums[at]).toBeCloseTo(
        values.reduce((a, b) => a + b, 0),
        3,
      )
      expect(min[at]).toBe(Math.min(...values))
    }
  },
)

test('the widest square of a map is found wherever it lies, and agrees with trying all', () => {
  const random = createRandom(31)
  const byHand = (map: Uint8Array, width: number, height: number): number => {
    for (let side = Math.min(width, height); side > 0; side--) {
      for (let top = 0; top + side <= height; top++) {
        for (let left = 0; left + side <= width; left++) {
          let isFull = true
          for (let y = top; y < top + side && isFull; y++)
            for (let x = left; x < left + side; x++) isFull &&= map[y * width + x] === 1
          if (isFull) return side
        }
      }
    }
    return 0
  }
  for (const share of [0, 0.5, 0.8, 0.95, 1]) {
    for (const [width, height] of [
      [13, 9],
      [7, 16],
      [1, 5],
    ] as const) {
      const map = Uint8Array.from({ length: width * height }, () => (random() < share ? 1 : 0))
      expect(widestSquare(map, width)).toBe(byHand(map, width, height))
    }
  }
})
