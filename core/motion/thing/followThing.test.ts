import { movingWall } from '../../../tests/fixtures/movingWall'
import { flattenEllipse } from '../../geometry/outline'
import { cropSamples, type Samples } from '../../image/samples'
import type { PictureSource, TrackedFrame } from '../runTrack'
import { translationBy } from '../../geometry/transform'
import type { ExpectedOutline } from './expectedOutline'
import { followThing } from './followThing'

const COUNT = 18
const SIZE = { width: 240, height: 100 }
/** It goes, stops in the middle of the shot, and goes on faster: nothing that two drawings far apart would tell. */
const trueX = (i: number): number => (i < 6 ? 40 + 8 * i : i < 11 ? 88 : 88 + 14 * (i - 10))
const trueY = (i: number): number => 50 + 4 * Math.sin(i / 3)
const wall = {
  motion: (i: number) => translationBy(-1.7 * i, 0.4 * i),
  gain: (i: number) => 1 + 0.06 * Math.sin(2.3 * i),
}
/** A body of two tones before a camera that pans and light that flickers. */
const body = (i: number) => (x: number, y: number) => {
  const [u, v] = [(x - trueX(i)) / 12, (y - trueY(i)) / 18]
  return u * u + v * v < 1 ? (v > 0 ? 0.95 : 0.05) : null
}

/** Frames count from 1 in the footage, and are drawn once. */
function sourceOf(footage: PictureSource): PictureSource {
  const drawn = new Map<number, Promise<Samples>>()
  return {
    plate: SIZE,
    readRect: async (frame, rect) => {
      const known = drawn.get(frame) ?? footage.readRect(frame + 1, { col: 0, row: 0, ...SIZE })
      drawn.set(frame, known)
      return cropSamples(await known, rect)
    },
  }
}
const source = sourceOf(movingWall({ ...wall, cover: body }, SIZE))

/** Drawn 5 px too large on some frames; on the others it is expected straight between. */
function expected(drawn: readonly number[]): ExpectedOutline[] {
  return Array.from({ length: COUNT }, (_, i) => {
    const before = [...drawn].reverse().find((frame) => frame <= i) ?? drawn[0]!
    const after = drawn.find((frame) => frame >= i) ?? drawn.at(-1)!
    const share = after > before ? (i - before) / (after - before) : 0
    const between = (at: (i: number) => number) => at(before) + share * (at(after) - at(before))
    const [x, y] = [between(trueX), between(trueY)]
    return { frame: i, polygon: flattenEllipse(x, y, 16, 22, 0), x, y, isDrawn: drawn.includes(i) }
  })
}

const request = (drawn: readonly number[]) => ({
  outlines: expected(drawn),
  motionBetween: (from: number, to: number) => translationBy(-1.7 * (to - from), 0.4 * (to - from)),
})
async function placed(drawn: readonly number[]): Promise<readonly TrackedFrame[]> {
  const found = await followThing(request(drawn), source, { shouldStop: () => false })
  if (!found.ok) throw new Error(found.reason)
  return found.frames
}
const offs = (found: readonly { readonly values: readonly number[] }[]) =>
  found.map(({ values }, i) => Math.hypot(values[0]! - trueX(i), values[1]! - trueY(i)))

test('drawn on three frames, a thing that stops is held on all others, before a camera that pans and light that flickers', async () => {
  const outlines = expected([0, 9, 17])
  const naive = Math.max(...outlines.map(({ x, y }, i) => Math.hypot(x - trueX(i), y - trueY(i))))
  expect(naive).toBeGreaterThan(15)
  const found = await placed([0, 9, 17])
  expect(found.map(({ frame }) => frame)).toEqual(outlines.map(({ frame }) => frame))
  expect(Math.max(...offs(found))).toBeLessThan(1.5)
  expect(Math.min(...found.map(({ sure }) => sure))).toBeGreaterThan(0.7)
  // Where it was drawn it stays as it was drawn.
  expect(found[9]!.values).toEqual([trueX(9), trueY(9)])
})

test('drawn once, it is followed both ways', async () => {
  const found = await placed([10])
  expect(Math.max(...offs(found))).toBeLessThan(2)
})

test('what is just like the background cannot be told from it, and nothing is guessed', async () => {
  const empty = sourceOf(movingWall(wall, SIZE))
  expect(await followThing(request([10]), empty, { shouldStop: () => false })).toEqual({
    ok: false,
    reason: 'like-background',
  })
})

test('stopped, it answers nothing; it tells how far it is', async () => {
  const told: number[] = []
  const context = { shouldStop: () => told.length > 3, onProgress: (done: number) => void told.push(done) }
  expect(await followThing(request([10]), source, context)).toEqual({ ok: false, reason: 'stopped' })
  expect(told).toEqual([1, 2, 3, 4])
})
