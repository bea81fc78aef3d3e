/** What a frame's proof says: what every mend on it measures, what probably shows, and that nothing else was touched. */
import { medianOf } from '../image/median'
import { flickerBetween } from '../measure/areaMeasures'
import { LINE_SHOWS_FROM } from '../measure/lineResidue'
import type { MendMeasure } from '../measure/mendMeasure'
import type { OverTime } from '../measure/overTime'
import {
  GHOST_SHARE,
  MARK_LEFT,
  overTimeLimit,
  SHADE_OFF,
  snagsOfMeasures,
  snagsOverTime,
  type Snag,
} from '../snags/snags'
import type { Frame } from '../time'

interface MeasureInfo {
  readonly title: string
  readonly help: string
  /** What is usual. */
  readonly usual: number
  /** Empty where it is a ratio. */
  readonly unit: '' | '%'
  /** Which way is worse. */
  readonly worse: 'above' | 'below' | 'away'
}

/** In the order in which they are shown. */
export const PROOF_MEASURES = {
  seam: {
    title: 'Seam',
    help: 'The step across the rim against steps beside it',
    usual: 1,
    unit: '',
    worse: 'above',
  },
  flicker: {
    title: 'Flicker',
    help: 'Change from the frame before, inside against around, carried along',
    usual: 1,
    unit: '',
    worse: 'above',
  },
  residue: {
    title: 'Residue',
    help: 'What is left of the thing, or does not fit what other frames show: from 1 on it is worth a look',
    usual: 0,
    unit: '',
    worse: 'above',
  },
  grain: { title: 'Grain', help: 'Inside against around', usual: 1, unit: '', worse: 'away' },
  sharpness: {
    title: 'Sharpness',
    help: 'Structure of about 6 px against the same place on other frames',
    usual: 1,
    unit: '',
    worse: 'below',
  },
  sure: {
    title: 'Sure',
    help: 'How well the other frames lie over this one',
    usual: 100,
    unit: '%',
    worse: 'below',
  },
  seen: {
    title: 'Seen',
    help: 'Share of the area that some frame showed',
    usual: 100,
    unit: '%',
    worse: 'below',
  },
} as const satisfies Readonly<Record<string, MeasureInfo>>
export type ProofMeasure = keyof typeof PROOF_MEASURES
export const PROOF_MEASURE_IDS = Object.keys(PROOF_MEASURES) as ProofMeasure[]

/** A mend on a frame; null where it cannot be told. */
export interface MendProof {
  readonly mendId: string
  readonly numbers: Readonly<Record<ProofMeasure, number | null>>
  /** Against the frames around; null where that cannot be told. */
  readonly overTime: OverTime | null
}

export interface FrameProof {
  readonly frame: Frame
  readonly mends: readonly MendProof[]
  /** Those that the frame by itself tells, and the one before it. */
  readonly snags: readonly Snag[]
}

/** What was measured of one frame. */
export interface MeasuredFrame {
  readonly measures: readonly MendMeasure[]
  /** Of the frame before, where there is one. */
  readonly before: readonly MendMeasure[]
  /** Along the background's motion, of mends where that could be told. */
  readonly overTime: ReadonlyMap<string, OverTime>
}

export function proofOfFrame(frame: Frame, { measures, before, overTime }: MeasuredFrame): FrameProof {
  const ids = [...new Set(measures.map(({ mendId }) => mendId))]
  return {
    frame,
    mends: ids.map((mendId) => ({
      mendId,
      numbers: numbersOf(
        measures.filter((one) => one.mendId === mendId),
        before.filter((one) => one.mendId === mendId),
        overTime.get(mendId) ?? null,
      ),
      overTime: roundedOverTime(overTime.get(mendId) ?? null),
    })),
    snags: snagsOfMeasures(measures, frame, before),
  }
}

/** Of all areas of a mend: of each number the worst. */
function numbersOf(
  areas: readonly MendMeasure[],
  before: readonly MendMeasure[],
  overTime: OverTime | null,
): MendProof['numbers'] {
  const flickers = areas.flatMap(({ cells }, i) => {
    const earlier = before[i]?.cells
    const flicker = cells && earlier ? flickerBetween(earlier, cells) : null
    return flicker ? [flicker.ratio] : []
  })
  const left = areas.flatMap(({ line, mark, shade, gathered }) => [
    ...(line ? [line.ratio / LINE_SHOWS_FROM] : []),
    ...(mark ? [Math.abs(mark.left) / MARK_LEFT] : []),
    ...(shade && shade.offStops !== null && shade.by !== 'nothing'
      ? [Math.abs(shade.offStops) / SHADE_OFF[shade.by]]
      : []),
    ...(gathered ? [gathered.ghostShare / GHOST_SHARE] : []),
  ])
  if (overTime?.inside) left.push(overTime.inside.e / overTimeLimit(overTime))
  const grains = areas.map(({ grainRatio }) => grainRatio)
  const gathered = areas.flatMap((one) => (one.gathered ? [one.gathered] : []))
  const all: Readonly<Record<ProofMeasure, readonly (number | null)[]>> = {
    seam: areas.map(({ rimStep }) => rimStep),
    flicker: flickers,
    residue: left,
    grain: grains.some((one) => one !== null) ? grains : [overTime?.grain ?? null],
    sharpness: [overTime?.sharpness ?? null],
    sure: gathered.filter(({ frames }) => frames > 0).map(({ registrationSure }) => 100 * registrationSure),
    seen: gathered.map(({ seenShare }) => 100 * seenShare),
  }
  return Object.fromEntries(
    PROOF_MEASURE_IDS.map((measure) => {
      const worst = worstOf(measure, all[measure])
      return [measure, worst === null ? null : rounded(worst)]
    }),
  ) as Record<ProofMeasure, number | null>
}

/** To what can matter: a proof of a long shot is read whole. */
function roundedOverTime(overTime: OverTime | null): OverTime | null {
  if (!overTime) return null
  const { inside, beside, usualE, sharpness, grain } = overTime
  const spot = (one: OverTime['inside']) => one && { e: rounded(one.e), x: one.x, y: one.y }
  const ratio = (one: number | null) => (one === null ? null : rounded(one))
  return {
    inside: spot(inside),
    beside: spot(beside),
    usualE: rounded(usualE),
    sharpness: ratio(sharpness),
    grain: ratio(grain),
  }
}

const rounded = (value: number): number => Math.round(value * 1000) / 1000

/** Of values of a measure the one that is worst; null of none. */
export function worstOf(measure: ProofMeasure, values: readonly (number | null)[]): number | null {
  const { worse } = PROOF_MEASURES[measure]
  let worst: number | null = null
  for (const value of values)
    if (value !== null && (worst === null || badness(value, worse) > badness(worst, worse))) worst = value
  return worst
}

/** Of ratios half as much is as bad as twice. */
const badness = (value: number, worse: MeasureInfo['worse']): number =>
  worse === 'above' ? value : worse === 'below' ? -value : Math.max(value, 1 / Math.max(value, 1e-3))

/** All snags of frames that were measured, with those that only all frames together tell. */
export function snagsOfProofs(proofs: readonly FrameProof[]): Snag[] {
  const of = new Map<string, { inside: number[]; beside: number[] }>()
  for (const { mends } of proofs)
    for (const { mendId, overTime } of mends) {
      const all = of.get(mendId) ?? { inside: [], beside: [] }
      of.set(mendId, all)
      if (overTime?.inside) all.inside.push(overTime.inside.e)
      if (overTime?.beside) all.beside.push(overTime.beside.e)
    }
  const usual = new Map(
    [...of].map(([mendId, { inside, beside }]) => [
      mendId,
      { inside: usualOf(inside), beside: usualOf(beside) },
    ]),
  )
  return proofs.flatMap(({ frame, mends, snags }) => [
    ...snags,
    ...mends.flatMap(({ mendId, overTime }) =>
      overTime ? snagsOverTime(mendId, frame, overTime, usual.get(mendId)!) : [],
    ),
  ])
}

const usualOf = (values: readonly number[]): number => (values.length === 0 ? 0 : medianOf(values))

/** Of each mend the worst place of some frames on end: neighbouring frames look the same. The most visible first. */
export function worstPlaces(snags: readonly Snag[], max: number): Snag[] {
  const seen = new Set<string>()
  return [...snags]
    .sort((a, b) => b.weight - a.weight)
    .filter(({ mendId, frame }) => {
      const key = `${mendId} ${Math.floor(frame / ALIKE_FRAMES)}`
      return seen.has(key) ? false : (seen.add(key), true)
    })
    .slice(0, max)
}

const ALIKE_FRAMES = 8
