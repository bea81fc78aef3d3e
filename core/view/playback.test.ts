import { PLAIN_PLAYBACK, playbackSchema, playedAfter, type Played } from './playback'

const RANGE = { firstFrame: 1003, lastFrame: 1005 }

/** The frames that are played from one on. */
function played(
  from: number,
  repeat: 'loop' | 'once' | 'to-and-fro',
  count: number,
  range = RANGE,
): number[] {
  const frames: number[] = []
  let at: Played | null = { frame: from, way: 1 }
  while (frames.length < count && (at = playedAfter(at, range, repeat))) frames.push(at.frame)
  return frames
}

test('a loop begins again, to and fro turns round at both ends, once ends', () => {
  expect(played(1003, 'loop', 5)).toEqual([1004, 1005, 1003, 1004, 1005])
  expect(played(1003, 'to-and-fro', 7)).toEqual([1004, 1005, 1004, 1003, 1004, 1005, 1004])
  expect(played(1003, 'once', 9)).toEqual([1004, 1005])
})

test('a frame outside of the range goes into it; a range of one frame stays on it', () => {
  expect(played(1001, 'loop', 2)).toEqual([1003, 1004])
  expect(played(1040, 'once', 2)).toEqual([1003, 1004])
  for (const repeat of ['loop', 'to-and-fro'] as const)
    expect(played(1003, repeat, 3, { firstFrame: 1003, lastFrame: 1003 })).toEqual([1003, 1003, 1003])
})

test('what is not chosen is as it comes', () => {
  expect(PLAIN_PLAYBACK).toEqual({ repeat: 'loop', pace: 'every', speed: 'full' })
  expect(playbackSchema.safeParse({ speed: 'treble' }).success).toBe(false)
})
