import { createRandom } from '../../tests/random'
import type { MarkPicture } from '../image/markPicture'
import { createRaster, type Raster } from '../image/raster'
import { measureMarkLeft } from './markLeft'

const rect = { col: 30, row: 20, width: 160, height: 90 }
const at = { x: 60, y: 40 }
const SIZE = { width: 100, height: 50 }

/** Bars of half opacity and nearly white, with soft edges. */
function barsAt(x: number, y: number): number {
  if (y < 8 || y > 42) return 0
  const across = Math.abs((x % 16) - 8)
  return 0.5 * Math.min(1, Math.max(0, (5.5 - across) / 3))
}
const mark: MarkPicture = {
  ...SIZE,
  channels: 3,
  opacity: Float32Array.from({ length: 5000 }, (_, i) => barsAt((i % 100) + 0.5, Math.floor(i / 100) + 0.5)),
  added: Float32Array.from({ length: 15000 }, (_, i) => {
    const pixel = Math.floor(i / 3)
    return 0.9 * barsAt((pixel % 100) + 0.5, Math.floor(pixel / 100) + 0.5)
  }),
}

/** Textured ground with so much of the mark over it, so many px beside. */
function pictureWith(left: number, offX = 0): Raster {
  const random = createRandom(9)
  const picture = createRaster(rect.width, rect.height, 3)
  for (let pixel = 0; pixel < rect.width * rect.height; pixel++) {
    const [x, y] = [rect.col + (pixel % rect.width) + 0.5, rect.row + Math.floor(pixel / rect.width) + 0.5]
    const [own, moved] = [barsAt(x - at.x, y - at.y), barsAt(x - at.x - offX, y - at.y)]
    for (let c = 0; c < 3; c++) {
      const ground = 0.35 + 0.1 * Math.sin(x / 7 + c) * Math.cos(y / 5) + 0.02 * (random() - 0.5)
      const share = left * own + (offX === 0 ? 0 : moved - own)
      picture.data[3 * pixel + c] = ground + share * (0.9 - ground)
    }
  }
  return picture
}
const whole = new Float32Array(rect.width * rect.height).fill(1)
const measured = (result: Raster) =>
  measureMarkLeft(result, pictureWith(1), rect, { picture: mark, ...at }, whole)!

test('of a mark that is gone nothing is left, and of one that was not touched all is', () => {
  const gone = measured(pictureWith(0))
  expect(Math.abs(gone.left)).toBeLessThan(0.02)
  expect(Math.abs(gone.ghost!)).toBeLessThan(0.05)
  expect(gone.offPx).toBeLessThan(0.05)
  const there = measured(pictureWith(1))
  // The mark itself is in the means that stand for the ground: a whole one counts for more.
  expect(there.left).toBeGreaterThan(0.9)
  expect(there.leftSure).toBeGreaterThan(10)
})

test.each([0.2, -0.15])('a share of %f that is left is told by its edges and by its ghost', (share) => {
  const { left, leftSure, ghost, ghostSure } = measured(pictureWith(share))
  expect(Math.abs(left - share)).toBeLessThan(0.04)
  expect(Math.abs(ghost! - share)).toBeLessThan(0.08)
  expect(Math.min(leftSure, ghostSure)).toBeGreaterThan(4)
})

test('a mark that lies beside its picture is told by how far', () => {
  const { left, offPx, offSure } = measured(pictureWith(0, 0.6))
  expect(Math.abs(offPx - 0.6)).toBeLessThan(0.15)
  expect(offSure).toBeGreaterThan(4)
  // Edges that are off look a little like a part that is missing.
  expect(Math.abs(left)).toBeLessThan(0.2)
})

test('pixels at the end of the range under it are counted; without coverage nothing is said', () => {
  const plate = pictureWith(1)
  for (let i = 0; i < plate.data.length; i++) plate.data[i] = 1
  const { clippedShare } = measureMarkLeft(pictureWith(0), plate, rect, { picture: mark, ...at }, whole)!
  expect(clippedShare).toBe(1)
  const none = new Float32Array(whole.length)
  expect(measureMarkLeft(pictureWith(0), plate, rect, { picture: mark, ...at }, none)).toBeNull()
})
