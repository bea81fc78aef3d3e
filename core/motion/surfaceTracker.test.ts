/** A ball that turns, with spots on it: some go out of sight and come back. The ball is made up; where its spots lie is known. */
import { createRandom } from '../../tests/random'
import { createSamples, type Samples } from '../image/samples'
import { cropSamples } from '../image/samples'
import { absorb, framesFrom, newTrack, trackRequest } from '../document/follow'
import { placesOf, visibilityAt, type Track } from '../document/tracks'
import { runTrack } from './runTrack'

const [WIDTH, HEIGHT, RADIUS] = [220, 200, 80]
const [FIRST, LAST, TURNS] = [1001, 1024, 20]
/** Places on the ball, as angles to the right and down. */
const SPOTS = [[-0.2, -0.3], [0.3, 0.1], [-0.1, 0.4], [0.25, -0.4], [1.2, 0]] as const // prettier-ignore
const turnAt = (frame: number): number =>
  frame < FIRST + TURNS ? 0.45 * Math.sin((Math.PI * (frame - FIRST)) / TURNS) : 0

const placeAt = (frame: number, [right, down]: readonly [number, number]) => {
  const angle = right + turnAt(frame)
  return {
    x: WIDTH / 2 + RADIUS * Math.sin(angle) * Math.cos(down),
    y: HEIGHT / 2 + RADIUS * Math.sin(down),
    facing: Math.cos(angle) * Math.cos(down),
  }
}

const random = createRandom(5)
const MOTTLE = Array.from({ length: 14 }, () => ({
  right: 9 * random(),
  down: 9 * random(),
  by: random() * 6,
}))

/** Skin of a mottled ball with dark spots, on grey. */
function ballOn(frame: number): Samples {
  const out = createSamples(WIDTH, HEIGHT, 3, 8)
  const noise = createRandom(frame)
  for (let row = 0; row < HEIGHT; row++) {
    for (let col = 0; col < WIDTH; col++) {
      const [x, y] = [(col + 0.5 - WIDTH / 2) / RADIUS, (row + 0.5 - HEIGHT / 2) / RADIUS]
      let value = 90 + 30 * Math.sin(col / 9) * Math.sin(row / 7)
      if (x * x + y * y < 1) {
        const down = Math.asin(y)
        const right = Math.asin(Math.max(-1, Math.min(1, x / Math.cos(down)))) - turnAt(frame)
        value = 170 - 50 * (1 - Math.sqrt(1 - x * x - y * y))
        for (const one of MOTTLE) value += one.by * Math.sin(one.right * right + one.down * down) * 0.5
        for (const spot of SPOTS) {
          const [dx, dy] = [(right - spot[0]) * Math.cos(down) * RADIUS, (down - spot[1]) * RADIUS]
          value *= 1 - 0.45 * Math.max(0, Math.min(1, 6 - Math.hypot(dx, dy)))
        }
      }
      out.data.fill(value + 4 * (noise() - 0.5), 3 * (row * WIDTH + col), 3 * (row * WIDTH + col) + 3)
    }
  }
  return out
}

const pictures = new Map<number, Samples>()
const source = {
  plate: { width: WIDTH, height: HEIGHT },
  readRect: (frame: number, rect: Parameters<typeof cropSamples>[1]) => {
    const picture = pictures.get(frame) ?? ballOn(frame)
    pictures.set(frame, picture)
    return Promise.resolve(cropSamples(picture, rect))
  },
}

async function followed(): Promise<Track> {
  const seed = SPOTS.flatMap((spot) => [placeAt(FIRST, spot).x, placeAt(FIRST, spot).y])
  const track = newTrack('s', 'surface', 'Ball', FIRST, seed)
  const request = trackRequest(track, FIRST, framesFrom(FIRST, 'forward', { firstFrame: FIRST, lastFrame: LAST })) // prettier-ignore
  return absorb(track, FIRST, await runTrack(request, source, { shouldStop: () => false }))
}

test('each place goes where the ball takes it; one that turns out of sight is carried by the others, and comes back as itself', async () => {
  const track = await followed()
  expect(track.frames).toHaveLength(LAST - FIRST + 1)
  const errors: number[] = []
  let hidden = 0
  for (const row of track.frames) {
    SPOTS.forEach((spot, i) => {
      const [x, y, seen] = row.slice(2 + 3 * i, 5 + 3 * i) as [number, number, number]
      const truth = placeAt(row[0], spot)
      if (seen === 1) errors.push(Math.hypot(x - truth.x, y - truth.y))
      else hidden++
      // What faces the camera is seen, what faces away is not.
      if (truth.facing > 0.5) expect([row[0], i, seen]).toEqual([row[0], i, 1])
      if (truth.facing < -0.02) expect([row[0], i, seen]).toEqual([row[0], i, 0])
    })
  }
  expect(hidden).toBeGreaterThan(2)
  expect(errors.reduce((sum, one) => sum + one, 0) / errors.length).toBeLessThan(0.3)
  const last = track.frames.at(-1)!
  expect(last[2 + 3 * 4 + 2]).toBe(1)

  // What lies on it fades before it goes out of sight, and after it has come back.
  const [x, y] = placesOf(track.frames[0]!.slice(2)).slice(8) as [number, number]
  const shares = track.frames.map(([frame]) => visibilityAt(track, frame, { x, y }))
  expect(Math.min(...shares)).toBe(0)
  expect([shares[0], shares.at(-1)]).toEqual([1, 1])
  expect(shares.some((share) => share > 0 && share < 1)).toBe(true)
  expect(visibilityAt(track, 1011, { x: x - 40, y })).toBe(1)
})

test('a place with nothing to hold on to is carried; with none at all there is nothing to follow', async () => {
  const flat = { ...source, readRect: (_frame: number, rect: { width: number; height: number }) => Promise.resolve(createSamples(rect.width, rect.height, 3, 8)) } // prettier-ignore
  const track = newTrack('s', 'surface', 'Ball', FIRST, [40, 40, 60, 60])
  const outcome = await runTrack(trackRequest(track, FIRST, [1002]), flat, { shouldStop: () => false })
  expect(outcome.end.reason).toBe('nothing-to-hold')
  const { x, y } = placeAt(FIRST, SPOTS[0])
  const some = newTrack('s', 'surface', 'Ball', FIRST, [x, y, 20, 20])
  const request = { ...trackRequest(some, FIRST, [1002, 1003]), hidden: [false, true] }
  const followed = await runTrack(request, source, { shouldStop: () => false })
  const row = followed.frames.at(-1)!
  expect([row.values[2], row.values[5]]).toEqual([1, 0])
  // The other one went with its neighbour.
  expect(row.values[3]! - 20).toBeCloseTo(row.values[0]! - x, 3)
})
