import { createRandom } from '../../../tests/random'
import { createRaster } from '../../image/raster'
import { shareLaidAfter } from './raisedGrain'

const [WIDTH, HEIGHT] = [120, 80]
const GAIN = 4

/** Grain everywhere; in the middle as much again of that share has come after the mark, and was raised. */
function undone(share: number, level = 0.02) {
  const random = createRandom(5)
  const picture = createRaster(WIDTH, HEIGHT, 3)
  const raised = new Float32Array(WIDTH * HEIGHT)
  for (let at = 0; at < raised.length; at++) {
    const isIn = Math.abs((at % WIDTH) - 60) < 30 && Math.abs(Math.floor(at / WIDTH) - 40) < 25
    raised[at] = isIn ? GAIN : 1
    const deviation = level * Math.sqrt(isIn ? 1 + share * (GAIN - 1) : 1)
    for (let c = 0; c < 3; c++)
      picture.data[3 * at + c] = 0.5 + 1.73 * deviation * (random() + random() + random() + random() - 2)
  }
  return shareLaidAfter(picture, raised)
}

test.each([0, 0.5, 1])('of grain the share of %d that came after the mark is told', (share) => {
  expect(Math.abs(undone(share) - share)).toBeLessThan(0.25)
})

test('where there is hardly any grain, or too little of the mark, all of it is taken for raised', () => {
  expect(undone(0, 0.0005)).toBe(1)
  expect(shareLaidAfter(createRaster(WIDTH, HEIGHT, 3), new Float32Array(WIDTH * HEIGHT).fill(1))).toBe(1)
})
