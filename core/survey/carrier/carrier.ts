/** What film, tape or a sensor has done to the picture: looked for on all frames in one pass. */
import type { Samples } from '../../image/samples'
import type { Frame } from '../../time'
import { createCutDetector } from '../cuts'
import { CELL_PX, quarterStops } from '../quarter'
import { levelsOf, shiftBetween, type Levels } from '../shift'
import type { Surveyor } from '../surveyor'
import { countLight, inOwnLight, lightStep, type LightCourse } from './flashes'
import { lightOf, quarterLight } from './light'
import {
  isOfScene,
  specksOf,
  speckFrame,
  type Candidate,
  type SeenSpecks,
  type Speck,
  type SpeckFrame,
} from './specks'
import { followLines, linesOf, type StandingLine } from './standingLines'

export interface CarrierPart extends LightCourse {
  readonly specks: readonly Speck[]
  readonly upright: readonly StandingLine[]
  readonly level: readonly StandingLine[]
  /** Where the picture as a whole has gone since the first frame, px. */
  readonly course: ReadonlyMap<Frame, { readonly x: number; readonly y: number }>
}

/** A picture that is another one holds nothing to compare: such are not looked at together. */
const NO_SHIFT = { x: 0, y: 0 }

export function surveyCarrier(firstFrame: Frame): Surveyor<CarrierPart> {
  const cuts = createCutDetector()
  const light = countLight()
  const [upright, level] = [followLines('x'), followLines('y')]
  const specks: Speck[] = []
  const doubts: SeenSpecks['doubts'][number][] = []
  const course = new Map<Frame, { readonly x: number; readonly y: number }>()
  let at = NO_SHIFT
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

  /** The first frame of a picture and the last are compared with two on the same side. */
  const endPicture = () => {
    const [c, b, a] = recent.slice(-3).reverse()
    if (a && b && c) take(atEnd(specksOf(c, b, a, back(c), sum(back(c), back(b)))))
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
      const shift = isCut || !moved ? NO_SHIFT : moved
      at = { x: at.x + shift.x * CELL_PX, y: at.y + shift.y * CELL_PX }
      course.set(frame, at)
      const full = lightOf(samples)
      recent.push(speckFrame(frame, { full, quarter: quarterLight(full) }, shift))
      const [a, b, c] = recent.slice(-3)
      if (a && b && c) {
        if (recent.length === 3) take(atEnd(specksOf(a, b, c, b.shift, sum(b.shift, c.shift))))
        take(specksOf(b, a, c, back(b), c.shift))
      }
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

const sum = (a: SpeckFrame['shift'], b: SpeckFrame['shift']) => ({ x: a.x + b.x, y: a.y + b.y })
/** From a frame to the one before it. */
const back = ({ shift }: SpeckFrame) => ({ x: -shift.x, y: -shift.y })

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
    return isOfScene(candidate, here.full, other.full, away, goes)
  })
}

/** Of frames on one side alone nobody knows what passes over what. */
const atEnd = ({ candidates, doubts }: SeenSpecks): SeenSpecks => ({
  doubts,
  candidates: candidates.flatMap((one) =>
    one.speck.sure < SURE_AT_END
      ? []
      : [{ ...one, speck: { ...one.speck, sure: END_SHARE * one.speck.sure } }],
  ),
})
const SURE_AT_END = 0.8
const END_SHARE = 0.7

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
const SOON_FRAMES = 3
const OFTEN = 3

/** What shines up at the same place of what is filmed again and again is a glint, or a lamp that twinkles. */
export function withoutTwinkle(specks: readonly Speck[], course: CarrierPart['course']): Speck[] {
  const placed = specks.map((speck) => {
    const { x, y } = course.get(speck.frame) ?? NO_SHIFT
    return { speck, x: speck.x - x, y: speck.y - y }
  })
  const cells = new Map<string, typeof placed>()
  const cellOf = (at: number) => Math.floor(at / SAME_PX)
  for (const one of placed) {
    const key = `${cellOf(one.x)} ${cellOf(one.y)}`
    const cell = cells.get(key)
    if (cell) cell.push(one)
    else cells.set(key, [one])
  }
  return placed
    .filter((one) => {
      const frames = new Set<Frame>()
      for (let j = -1; j <= 1; j++)
        for (let i = -1; i <= 1; i++)
          for (const other of cells.get(`${cellOf(one.x) + i} ${cellOf(one.y) + j}`) ?? [])
            if (Math.abs(other.x - one.x) <= SAME_PX && Math.abs(other.y - one.y) <= SAME_PX)
              frames.add(other.speck.frame)
      const isSoon = [...frames].some(
        (frame) => frame !== one.speck.frame && Math.abs(frame - one.speck.frame) <= SOON_FRAMES,
      )
      return !isSoon && frames.size < OFTEN
    })
    .map(({ speck }) => speck)
}
