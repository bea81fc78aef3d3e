import { sampleEllipse } from '../../tests/fixtures/sampleMend'
import { ALL_PARTS } from '../document/basics'
import { newTrack } from '../document/follow'
import { apply, IDENTITY, translationBy } from '../geometry/transform'
import { SCENE_FORMAT, SCENE_VERSION, type Scene } from '../scene/scene'
import { groundMotion } from './groundMotion'

const plate = { width: 200, height: 100, firstFrame: 1001, frameCount: 4 }
/** The background goes 2 px to the right a frame. */
const scene: Scene = {
  format: SCENE_FORMAT,
  version: SCENE_VERSION,
  plate,
  layers: [
    {
      motions: [0, 1, 2, 3].map((i) => [...translationBy(2 * i, 0)] as never),
      sure: [1, 1, 1, 1],
      points: 80,
      hiddenBy: [],
    },
  ],
  exposureStops: [0, 0, 0, 0],
  cells: null,
}

/** What is followed goes 9 px to the left a frame. */
const followed = (kind: 'point' | 'thing', isSceneKnown = true) => {
  const rows = [0, 1, 2, 3].map((i) => [1001 + i, 1, 100 - 9 * i, 50] as [number, number, ...number[]])
  const track = { ...newTrack('t', kind, 'Track', 1001, [100, 50]), frames: rows }
  const area = sampleEllipse({ follow: { trackId: 't', uses: ALL_PARTS } })
  const shot = { mends: [], tracks: new Map([['t', track]]), plate: { ...plate, lastFrame: 1004 } }
  return groundMotion(area, { ...shot, scene: isSceneKnown ? scene : null }, 1001, 1004)
}

test('under an area that follows a place of the ground, the ground goes with it', () => {
  expect(apply(followed('point'), 10, 10)).toEqual({ x: -17, y: 10 })
})

test('behind a thing the ground goes as the scene does, not as the thing', () => {
  expect(apply(followed('thing'), 10, 10)).toEqual({ x: 16, y: 10 })
  expect(followed('thing', false)).toEqual(IDENTITY)
})
