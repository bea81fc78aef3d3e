/** A mark whose picture is known, laid over a wall that goes by, is found where it was laid. */
import { movingWall } from '../../tests/fixtures/movingWall'
import { translationBy } from '../geometry/transform'
import type { MarkPicture } from '../image/markPicture'
import { wholePicture } from '../image/rect'
import { cropSamples, type Samples } from '../image/samples'
import type { Clip } from '../shot/clip'
import { placeMark } from './placeMark'

const plate = { width: 240, height: 160 }
const wall = movingWall({ motion: (i) => translationBy(-4.3 * i, 1.1 * i) }, plate)
const FRAMES = [1, 3, 5, 7, 9, 11, 13, 15]
const never = { shouldStop: () => false }

/** An arch and a bar, as letters are. */
function opacityAt(x: number, y: number): number {
  const isArch = Math.abs(Math.hypot(x - 22, y - 24) - 14) < 3.5 && y < 26
  return isArch || (x > 44 && x < 50 && y > 6) ? 0.35 : 0
}
const SIZE = { width: 64, height: 32 }
const mark: MarkPicture = {
  ...SIZE,
  channels: 3,
  opacity: Float32Array.from({ length: 2048 }, (_, i) => opacityAt((i % 64) + 0.5, Math.floor(i / 64) + 0.5)),
  added: Float32Array.from(
    { length: 6144 },
    (_, i) => 0.95 * opacityAt((Math.floor(i / 3) % 64) + 0.5, Math.floor(i / 192) + 0.5),
  ),
}

function clipWith(x: number, y: number, gain = 1): Clip {
  const paint = async (frame: number): Promise<Samples> => {
    const samples = await wall.readRect(frame, wholePicture(plate))
    for (let at = 0; at < plate.width * plate.height; at++) {
      const share = gain * opacityAt((at % plate.width) + 0.5 - x, Math.floor(at / plate.width) + 0.5 - y)
      for (let c = 0; share > 0 && c < 3; c++)
        samples.data[3 * at + c] = Math.round((1 - share) * samples.data[3 * at + c]! + share * 242)
    }
    return samples
  }
  return {
    plate: { ...plate, channels: 3, bitDepth: 8 },
    readRect: async (frame, rect) => cropSamples(await paint(frame), rect),
    readMatte: async () => null,
    readStill: async () => null,
    readMark: async () => null,
  }
}

test.each([
  [150, 104],
  [3, 5],
])('laid at %d, %d it is found there, within a pixel and surely', async (x, y) => {
  const found = await placeMark(clipWith(x, y), mark, FRAMES, never)
  expect(Math.abs(found!.x - x)).toBeLessThan(0.7)
  expect(Math.abs(found!.y - y)).toBeLessThan(0.7)
  expect(found!.sure).toBeGreaterThan(0.5)
})

test('half as strong as its picture it is found too; where it is not, nothing is sure', async () => {
  const faint = await placeMark(clipWith(90, 60, 0.5), mark, FRAMES, never)
  expect(Math.hypot(faint!.x - 90, faint!.y - 60)).toBeLessThan(1)
  const none = await placeMark(clipWith(0, 0, 0), mark, FRAMES, never)
  expect(none!.sure).toBeLessThan(0.3)
})

test('larger than the picture it is nowhere; stopped, nothing is said', async () => {
  const big = { ...mark, width: 400, height: 6 }
  expect(await placeMark(clipWith(9, 9), big, FRAMES, never)).toBeNull()
  expect(await placeMark(clipWith(9, 9), mark, FRAMES, { shouldStop: () => true })).toBeNull()
})
