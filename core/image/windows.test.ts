import { createRandom } from '../../tests/random'
import { boxSums, slidingLeast } from './windows'

const [WIDTH, HEIGHT] = [23, 17]
const next = createRandom(9)
const map = Float32Array.from({ length: WIDTH * HEIGHT }, next)

const within = (at: number, radius: number): number[] => {
  const [col, row] = [at % WIDTH, Math.floor(at / WIDTH)]
  const found: number[] = []
  for (let y = Math.max(0, row - radius); y <= Math.min(HEIGHT - 1, row + radius); y++)
    for (let x = Math.max(0, col - radius); x <= Math.min(WIDTH - 1, col + radius); x++) found.push(map[y * WIDTH + x]!)
  return found
}

test.each([0, 1, 3, 6, 30])('sums and least values over squares of radius %i are what looking at every pixel gives', (radius) => {
  const [sums, least] = [boxSums(map, WIDTH, HEIGHT, radius), slidingLeast(map, WIDTH, HEIGHT, radius)]
  for (let at = 0; at < map.length; at++) {
    const values = within(at, radius)
    expect(sums[at]).toBeCloseTo(
      values.reduce((a, b) => a + b, 0),
      3,
    )
    expect(least[at]).toBe(Math.min(...values))
  }
})
