/** What film, tape or a sensor has done to the picture: looked for on all frames in one pass. */
import type { Place } from '../../geometry/transform'
import type { Samples } from '../../image/samples'
import type { Frame } from '../../time'
import { createCutDetector } from '../cuts'
import { CELL_PX, quarterStops } from '../quarter'
import { levelsOf, shiftBetween, type Levels } from '../shift'
import type { Surveyor } from '../surveyor'
import { countLight, inOwnLight, lightStep, type LightCourse } from './flashes'
import { lightOf, quarterLight } from './light'
import { isOfScene } from './elsewhere'
import { speckFrame, type Candidate, type SeenSpecks, type Speck, type SpeckFrame } from './speck'
import { specksOf } from './specks'
import { followLines, linesOf, type StandingLine } from './standingLines'

export interface CarrierPart extends LightCourse {
  readonly specks: readonly Speck[]
  readonly upright: readonly StandingLine[]
  readonly level: readonly StandingLine[]
  /** Where the picture as a whole has gone since the first frame, px. */
  readonly course: ReadonlyMap<Frame, Place>
}

/** A picture of which most is as dark shows no dirt: the lens is covered. */
const COVERED_STOPS = -9

const NO_SHIFT = { x: 0, y: 0 }

export function surveyCarrier(firstFrame: Frame): Surveyor<CarrierPart> {
  const cuts = createCutDetector()
  const light = countLight()
  const [upright, level] = [followLines('x'), followLines('y')]
  const specks: Speck[] = []
  const doubts: SeenSpecks['doubts'][number][] = []
  const course = new Map<Frame, Place>()
  let at: Place = NO_SHIFT
  let last: { readonly levels: Levels; readonly middle: number } | null = null
  /** The frames of this picture that are still asked for. */
  let recent: SpeckFrame[] = []
  /** Candidates whose surroundings in time are not all known. */
  let open: Candidate[] = []
  let frame = firstFrame

  const take = (seen: SeenSpecks) => {
    open.push(...seen.candidates)
    doubts.push(...seen.doubts)
  }
  /** Looks at candidates up to a frame once more, on all frames around them. */
  const settle = (upTo: Frame) => {
    for (const candidate of open.filter(({ speck }) => speck.frame <= upTo))
      if (!isSceneAround(candidate, recent, course)) specks.push(candidate.speck)
    open = open.filter(({ speck }) => speck.frame > upTo)
  }

  const endPicture = () => {
    settle(Infinity)
    recent = []
  }

  return {
    add(samples: Samples) {
      // Each in its own light: a flash is no cut, and hides no motion.
      const { plane, middle } = inOwnLight(quarterStops(samples))
      const levels = levelsOf(plane)
      const moved = last && shiftBetween(last.levels, levels)
      const isCut = moved !== null && cuts.isCut(moved.left)
      const step = moved && middle - last!.middle + lightStep(last!.levels[0]!, plane, moved)
      light.add(frame, isCut ? null : step)
      if (isCut) endPicture()
      const isCovered = middle < COVERED_STOPS
      const shift = isCut || !moved ? NO_SHIFT : moved
      at = { x: at.x + shift.x * CELL_PX, y: at.y + shift.y * CELL_PX }
      course.set(frame, at)
      const full = lightOf(samples)
      if (isCovered) endPicture()
      else recent.push(speckFrame(frame, { full, quarter: quarterLight(full) }, shift))
      const [a, b, c] = recent.slice(-3)
      // Of the first frame of a picture and its last, nobody knows what passes over what: they are only looked at.
      if (a && b && c) take(specksOf(a, b, c))
      settle(frame - AROUND_FRAMES)
      if (recent.length > 2 * AROUND_FRAMES + 1) recent.shift()
      upright.add(frame, linesOf(full, 'x'))
      level.add(frame, linesOf(full, 'y'))
      last = { levels, middle }
      frame++
    },
    finish() {
      endPicture()
      return {
        ...light.finish(),
        specks: withoutTwinkle(whereFollowed(specks, doubts), course).sort((a, b) => a.frame - b.frame),
        upright: upright.finish(),
        level: level.finish(),
        course,
      }
    },
  }
}

/** Frames to either side that are asked whether a candidate is of the scene. */
const AROUND_FRAMES = 3

function isSceneAround(
  candidate: Candidate,
  recent: readonly SpeckFrame[],
  course: CarrierPart['course'],
): boolean {
  const { frame } = candidate.speck
  const here = recent.find((one) => one.frame === frame)!
  const at = course.get(frame)!
  return recent.some((other) => {
    const away = other.frame - frame
    if (away === 0 || Math.abs(away) > AROUND_FRAMES) return false
    const there = course.get(other.frame)!
    const goes = { x: there.x - at.x, y: there.y - at.y }
    return isOfScene(candidate, here, other, goes)
  })
}

const NEAR_PX = 40
const NEAR_FRAMES = 2
const MAX_DOUBTS = 3

/**
 * Where much stands out that is no speck, the motion was not found: something passes too fast, or turns. Nothing is said there. Source:
 * R. Bornard, "Probabilistic approaches for the digital restoration of television archives", 2002 (pathological motion).
 */
function whereFollowed(specks: readonly Speck[], doubts: SeenSpecks['doubts']): Speck[] {
  return specks.filter((speck) => {
    let near = 0
    for (const { frame, x, y } of doubts) {
      if (Math.abs(frame - speck.frame) > NEAR_FRAMES) continue
      if (Math.abs(x - speck.x) < NEAR_PX && Math.abs(y - speck.y) < NEAR_PX) near++
    }
    return near < MAX_DOUBTS
  })
}

const SAME_PX = 3

/** What shines up at the same place again is a glint or a lamp, of what is filmed; of the frame, a pixel that flickers. */
function withoutTwinkle(specks: readonly Speck[], course: CarrierPart['course']): Speck[] {
  const onScene = placesOf(specks, ({ frame, x, y }) => {
    const at = course.get(frame) ?? NO_SHIFT
    return { x: x - at.x, y: y - at.y }
  })
  const onFrame = placesOf(specks, (speck) => speck)
  return specks.filter((speck) => !onScene.isTakenAgain(speck) && !onFrame.isTakenAgain(speck))
}

/** Specks by a place of theirs, in cells as wide as places may differ. */
function placesOf(specks: readonly Speck[], placeOf: (speck: Speck) => Place) {
  const cells = new Map<string, Speck[]>()
  const cellOf = (at: number) => Math.floor(at / SAME_PX)
  for (const speck of specks) {
    const { x, y } = placeOf(speck)
    const key = `${cellOf(x)} ${cellOf(y)}`
    const cell = cells.get(key)
    if (cell) cell.push(speck)
    else cells.set(key, [speck])
  }
  const around = [-1, 0, 1]
  return {
    /** Whether another frame has one there too. */
    isTakenAgain(speck: Speck): boolean {
      const { x, y } = placeOf(speck)
      return around.some((j) =>
        around.some((i) =>
          (cells.get(`${cellOf(x) + i} ${cellOf(y) + j}`) ?? []).some((other) => {
            const place = placeOf(other)
            const isThere = Math.abs(place.x - x) <= SAME_PX && Math.abs(place.y - y) <= SAME_PX
            return isThere && other.frame !== speck.frame
          }),
        ),
      )
    },
  }
}
