import type { ClingOutcome } from '../motion/cling/runCling'
import { samplePath } from '../../tests/fixtures/sampleMend'
import type { PathArea } from './areas'
import { clungArea } from './clungArea'
import { newTrack } from './follow'
import { geometryAt } from './keyedGeometry'
import { withGeometryAt } from './keys'
import { setRight, setRightArea, trackedFrames } from './setRight'
import { trackValuesAt, type Track, type TrackRow } from './tracks'

const span = { firstFrame: 1001, lastFrame: 1020 }
/** An upright line of nine points at x on a frame. */
const lineAt = (x: number) => Array.from({ length: 9 }, (_, i) => [x, 20 * i, 5]).flat()
const trueX = (frame: number) => 40 + 2 * (frame - 1001)
/** Known: right outside 1008 to 1013, where it sits on something else and half believes it. */
const wrongX = (frame: number) => trueX(frame) + (frame >= 1008 && frame <= 1013 ? 12 : 0)
const rows = Array.from({ length: 20 }, (_, i): TrackRow => {
  const frame = 1001 + i
  return [frame, frame >= 1008 && frame <= 1013 ? 0.6 : 1, ...lineAt(wrongX(frame))] as TrackRow
})
const cling: Track = { ...newTrack('c', 'cling', 'Cling', 1001, []), frames: rows }
const before = new Map([['c', cling]])
const drawn = clungArea(samplePath(), new Map(), cling, span, 1001, span)
const HAND = 1010
const hand = Array.from({ length: 9 }, (_, i) => ({ x: trueX(HAND) + 0.8, y: 20 * i, widthPx: 9 }))
/** What following from the hand finds: the true line, until it has been where it was known to be for four frames. */
const outcome: ClingOutcome = {
  frames: Array.from({ length: 14 }, (_, i) => 1004 + i).map((frame) => ({
    frame,
    sure: 0.95,
    values: lineAt(trueX(frame) + 0.2),
  })),
  ends: [
    { reason: 'same', frame: 1017 },
    { reason: 'same', frame: 1004 },
  ],
}
const xAt = (track: Track, frame: number) => trackValuesAt(track, frame)![0]!
const seenX = (area: PathArea, track: Track, frame: number) => {
  const seen = geometryAt(area, new Map([['c', track]]), frame)
  return seen.shape === 'path' ? seen.points[4]!.x : NaN
}

test('what was found takes over, the hand holds on its own frame, and both ends go over into what was known', () => {
  const { track, changed } = setRight(cling, HAND, hand, outcome)
  expect(xAt(track, HAND)).toBeCloseTo(hand[0]!.x, 3)
  // The hand lies .6 px off what was found; over four frames that goes.
  expect(xAt(track, 1011)).toBeCloseTo(trueX(1011) + 0.2 + 0.45, 3)
  // The last four frames of each way lead over into what was known.
  expect(xAt(track, 1014)).toBeCloseTo(trueX(1014) + 0.75 * 0.2, 3)
  expect(xAt(track, 1006)).toBeCloseTo(trueX(1006) + 0.5 * 0.2, 3)
  for (const frame of [1001, 1003, 1004, 1017, 1020]) expect(xAt(track, frame)).toBeCloseTo(trueX(frame), 3)
  expect(changed).toEqual({ firstFrame: 1008, lastFrame: 1013 })
  expect(track.frames).toHaveLength(20)
  expect(trackValuesAt(track, HAND)![2]).toBe(5) // the width is the line's, not the rough hand's
})

test('a way that was lost helps as far as it is at least as sure as what was known', () => {
  const lost: ClingOutcome = {
    frames: outcome.frames.map((one) => ({ ...one, sure: one.frame > 1012 ? 0.3 : 0.95 })),
    ends: [
      { reason: 'lost', frame: 1018 },
      { reason: 'same', frame: 1004 },
    ],
  }
  const { track, changed } = setRight(cling, HAND, hand, lost)
  expect(xAt(track, 1012)).toBeCloseTo(trueX(1012) + 0.2 + 0.3, 3)
  expect(xAt(track, 1013)).toBe(wrongX(1013))
  expect(changed).toEqual({ firstFrame: 1008, lastFrame: 1012 })
})

test('the path looks as it was set, follows what was found, and keeps no key for it', () => {
  const asSet = geometryAt(drawn, before, HAND)
  if (asSet.shape !== 'path') throw new Error('a path stays a path')
  const moved = { ...asSet, points: asSet.points.map((point, i) => ({ ...point, x: hand[i]!.x })) }
  const keyed = withGeometryAt(drawn, before, HAND, moved) as PathArea
  expect(keyed.keys).toHaveLength(2)
  const { track } = setRight(cling, HAND, moved.points, outcome)
  const area = setRightArea(keyed, before, track, HAND)
  expect(area.keys.map((key) => key.frame)).toEqual([1001])
  expect(seenX(area, track, HAND)).toBeCloseTo(hand[4]!.x, 2)
  expect(seenX(area, track, 1013)).toBeCloseTo(xAt(track, 1013), 2)
  expect(seenX(area, track, 1020)).toBeCloseTo(trueX(1020), 2)
})

test('rows of a cling are what is compared with', () => {
  expect(trackedFrames(cling)[3]).toEqual({ frame: 1004, sure: 1, values: lineAt(trueX(1004)) })
})
