/** What film, tape or a sensor has done to the picture: looked for on all frames in one pass. */
import type { Samples } from '../../image/samples'
import type { Frame } from '../../time'
import type { ClipShape } from '../clipStatistics'
import { createCutDetector } from '../cuts'
import { CELL_PX, quarterStops } from '../quarter'
import { levelsOf, shiftBetween, type Levels } from '../shift'
import type { Surveyor } from '../surveyor'
import { countLight, lightStep, type LightCourse } from './flashes'
import { lightOf, quarterLight } from './light'
import { specksOf, speckFrame, type SeenSpecks, type Speck, type SpeckFrame } from './specks'
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

export function surveyCarrier(_shape: ClipShape, firstFrame: Frame): Surveyor<CarrierPart> {
  const cuts = createCutDetector()
  const light = countLight()
  const [upright, level] = [followLines('x'), followLines('y')]
  const specks: Speck[] = []
  const doubts: SeenSpecks['doubts'][number][] = []
  const course = new Map<Frame, { readonly x: number; readonly y: number }>()
  let at = NO_SHIFT
  let last: Levels | null = null
  /** The frames of this picture that are still asked for, up to three. */
  let recent: SpeckFrame[] = []
  let isFirst = true
  let frame = firstFrame

  const take = (seen: SeenSpecks) => {
    specks.push(...seen.specks)
    doubts.push(...seen.doubts)
  }

  /** The first frame of a picture and the last are compared with two on the same side. */
  const endPicture = () => {
    if (recent.length === 3) {
      const [a, b, c] = recent as [SpeckFrame, SpeckFrame, SpeckFrame]
      take(atEnd(specksOf(c, b, a, back(c), sum(back(c), back(b)))))
    }
    recent = []
    isFirst = true
  }

  return {
    add(samples: Samples) {
      const levels = levelsOf(quarterStops(samples))
      const moved = last && shiftBetween(last, levels)
      const isCut = moved !== null && cuts.isCut(moved.left)
      light.add(frame, moved && !isCut ? lightStep(last![0]!, levels[0]!, moved) : null)
      if (isCut) endPicture()
      const shift = isCut || !moved ? NO_SHIFT : moved
      at = { x: at.x + shift.x * CELL_PX, y: at.y + shift.y * CELL_PX }
      course.set(frame, at)
      const full = lightOf(samples)
      recent.push(speckFrame(frame, { full, quarter: quarterLight(full) }, shift))
      if (recent.length > 3) recent.shift()
      if (recent.length === 3) {
        const [a, b, c] = recent as [SpeckFrame, SpeckFrame, SpeckFrame]
        if (isFirst) take(atEnd(specksOf(a, b, c, b.shift, sum(b.shift, c.shift))))
        isFirst = false
        take(specksOf(b, a, c, back(b), c.shift))
      }
      upright.add(frame, linesOf(full, 'x'))
      level.add(frame, linesOf(full, 'y'))
      last = levels
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

/** Of frames on one side alone nobody knows what passes over what. */
const atEnd = ({ specks, doubts }: SeenSpecks): SeenSpecks => ({
  doubts,
  specks: specks.flatMap((speck) =>
    speck.sure < SURE_AT_END ? [] : [{ ...speck, sure: END_SHARE * speck.sure }],
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
