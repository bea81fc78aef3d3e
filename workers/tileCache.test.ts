import { createSamples, cropSamples } from '../core/image/samples'
import type { FrameRect, PlateShape } from '../core/shot/clip'
import { TileCache, type SharedTiles } from './tileCache'

const plate: PlateShape = { width: 600, height: 200, channels: 3, bitDepth: 8 }
const pictureOf = (frame: number) => {
  const samples = createSamples(plate.width, plate.height, 3, 8)
  for (let i = 0; i < samples.data.length; i++) samples.data[i] = (i * 7 + frame * 31) & 255
  return samples
}
const MANY = 1 << 26

function opened(maxBytes = MANY) {
  const asked: FrameRect[][] = []
  let fails = false
  const tiles = new TileCache(plate, maxBytes, async (wanted) => {
    asked.push([...wanted])
    if (fails) throw new Error('far away')
    return wanted.map(({ frame, rect }) => cropSamples(pictureOf(frame), rect))
  })
  return { tiles, asked, breaks: (does: boolean) => void (fails = does) }
}

test.each([
  { col: 0, row: 0, width: 600, height: 200 },
  { col: 250, row: 60, width: 20, height: 10 },
  { col: 599, row: 199, width: 1, height: 1 },
])('any rectangle comes as it is: %j', async (rect) => {
  const { tiles } = opened()
  expect(await tiles.readRect(5, rect)).toEqual(cropSamples(pictureOf(5), rect))
})

test('what is here is not asked for again, also while it is on its way', async () => {
  const { tiles, asked } = opened()
  const rect = { col: 10, row: 10, width: 100, height: 40 }
  await Promise.all([tiles.readRect(1, rect), tiles.readRect(1, { ...rect, width: 120 })])
  await tiles.readRect(1, { ...rect, row: 20 })
  expect(asked).toHaveLength(1)
  await tiles.readRect(1, { ...rect, col: 200 })
  // Of two tiles one was here.
  expect(asked.slice(1)).toEqual([[{ frame: 1, rect: { col: 256, row: 0, width: 256, height: 64 } }]])
})

test('many rectangles that are wanted soon come in one reading', async () => {
  const { tiles, asked } = opened()
  const rect = { col: 10, row: 10, width: 20, height: 20 }
  tiles.prefetch([1, 2, 3].map((frame) => ({ frame, rect })))
  await Promise.all([1, 2, 3].map((frame) => tiles.readRect(frame, rect)))
  expect(asked.map((all) => all.map(({ frame }) => frame))).toEqual([[1, 2, 3]])
})

test('there is room for so much: the tiles read last stay', async () => {
  const tileBytes = 256 * 64 * 3
  const { tiles, asked } = opened(2 * tileBytes)
  const rect = { col: 0, row: 0, width: 10, height: 10 }
  for (const frame of [1, 2, 3, 3, 1]) await tiles.readRect(frame, rect)
  expect(asked.map(([one]) => one!.frame)).toEqual([1, 2, 3, 1])
  expect(tiles.bytes).toBeLessThanOrEqual(2 * tileBytes)
})

test('a reading that failed is said to whoever reads, and is tried again', async () => {
  const { tiles, breaks } = opened()
  const rect = { col: 0, row: 0, width: 10, height: 10 }
  breaks(true)
  await expect(tiles.readRect(1, rect)).rejects.toThrow('far away')
  breaks(false)
  expect(await tiles.readRect(1, rect)).toEqual(cropSamples(pictureOf(1), rect))
})

test.each([8, 16] as const)(
  'what one has brought of %i bits another takes, and does not ask for',
  async (bitDepth) => {
    const deep = { ...plate, bitDepth }
    const picture = createSamples(plate.width, plate.height, 3, bitDepth)
    for (let i = 0; i < picture.data.length; i++) picture.data[i] = (i * 7919) % 65521
    const shared: SharedTiles[] = []
    const first = new TileCache(
      deep,
      MANY,
      async (wanted) => wanted.map(({ rect }) => cropSamples(picture, rect)),
      (tiles) => void shared.push(tiles),
    )
    const second = new TileCache(deep, MANY, () => Promise.reject(new Error('nobody should ask')))
    const rect = { col: 200, row: 50, width: 400, height: 150 }
    await first.readRect(4, rect)
    expect(shared.map(({ frame, buffer }) => [frame, buffer instanceof SharedArrayBuffer])).toEqual([
      [4, true],
    ])
    for (const tiles of shared) second.take(tiles)
    expect(await second.readRect(4, { ...rect, col: 250, width: 300 })).toEqual(
      cropSamples(picture, { ...rect, col: 250, width: 300 }),
    )
    await expect(second.readRect(5, rect)).rejects.toThrow('nobody should ask')
  },
)
