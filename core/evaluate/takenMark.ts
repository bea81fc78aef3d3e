/** A mark that was found, and what shows best what is under it: tried on frames of its mend. */
import type { KeyedArea } from '../document/areas'
import { applyChanges } from '../document/edits'
import { isOpaque, takeMarkOff, type MarkShownBy, type TakenMark } from '../document/markTaken'
import type { Mend } from '../document/mend'
import type { MarkRequest } from '../mark/estimateMark'
import type { WeighedMeasure } from '../measure/mendMeasure'
import { medianOf } from '../image/median'
import { findMark, type FoundMark } from '../plan/findMark'
import { planFrame } from '../plan/planFrame'
import type { ShotDocument } from '../plan/shotDocument'
import type { Clip } from '../shot/clip'
import { digestOf, readyDigests } from '../shot/digest'
import type { RunContext } from '../shot/context'
import { evaluateFrame } from './evaluateFrame'

/** A mark with the fill that shows best what is under it. */
export type TakenMarkFound = FoundMark & Pick<TakenMark, 'shownBy'>

/** Frames on which what was undone is measured against what other frames show. */
const TRIED_FRAMES = 5
/** Other frames may err by so many times as much as what was undone, on none by more. */
const RELIABLE_BELOW = 2
/** Weighed with other frames, what was undone has to err by no more than so much of what it does alone: it costs time. */
const WEIGHED_BELOW = 0.85
/** Other frames that err by no more than so much of that gain nothing from it. */
const OTHERS_BELOW = 0.4

/** As `findMark`; then its mend is worked out on a few frames, with what was undone weighed against other frames, which tells how far each errs. */
export async function findTakenMark(
  document: ShotDocument,
  mend: Mend,
  area: KeyedArea,
  clip: Clip,
  context: RunContext,
  othersOn?: MarkRequest['othersOn'],
): Promise<TakenMarkFound | null> {
  const found = await findMark(document, mend, area, clip, context, othersOn)
  if (!found) return null
  if (isOpaque(found) || !document.scene) return { ...found, shownBy: 'undone' }
  await readyDigests()
  // Named by what it is: caches know a picture by its name.
  const name = `tried ${digestOf([found.picture.added, found.picture.opacity])}`
  const record = { ...mend, stackIndex: 0 }
  const tryWeighed = { ...found, name, shownBy: 'weighed' } as const
  const { changes } = takeMarkOff(record, document.tracks, tryWeighed)
  const tried = applyChanges(new Map([[mend.id, record]]), changes).get(mend.id) ?? record
  const mends = document.mends.map((one) => (one.id === mend.id ? { ...tried, isOn: true } : one))
  const measures: WeighedMeasure[] = []
  for (const frame of triedFrames(document, mend)) {
    const plan = planFrame({ ...document, mends }, frame)
    const placements = plan.placements.filter((one) => one.mend.id === mend.id)
    const evaluated = await evaluateFrame({ ...plan, placements }, withMark(clip, found, name), {
      shouldStop: context.shouldStop,
    })
    if (context.shouldStop()) return null
    for (const { gathered } of evaluated.measures) if (gathered?.weighed) measures.push(gathered.weighed)
  }
  return { ...found, shownBy: bestOf(measures) }
}

/** Marks of the library and of other mends are still the clip's. */
const withMark = (clip: Clip, { picture }: FoundMark, name: string): Clip => ({
  ...clip,
  readMark: async (asked) => (asked === name ? picture : clip.readMark(asked)),
})

function triedFrames({ plate }: ShotDocument, { span }: Mend): number[] {
  const first = Math.max(span.firstFrame, plate.firstFrame)
  const count = Math.min(span.lastFrame, plate.lastFrame) - first + 1
  return Array.from({ length: Math.min(TRIED_FRAMES, count) }, (_, i) =>
    Math.floor(first + ((i + 0.5) * count) / Math.min(TRIED_FRAMES, count)),
  )
}

/** What shows best what is under a mark, by the errors that were measured. */
export function bestOf(measures: readonly WeighedMeasure[]): MarkShownBy {
  // Where something passes by, what it hides counts against the mark: the frames on which other frames do worst beside it tell whether they can be relied on.
  const worst = Math.max(...measures.map(({ undone, others }) => others / Math.max(1e-9, undone)))
  if (measures.length === 0 || worst > RELIABLE_BELOW) return 'undone'
  const gain = medianOf(measures.map(({ undone, weighed }) => weighed / Math.max(1e-9, undone)))
  if (gain > WEIGHED_BELOW) return 'undone'
  return worst <= OTHERS_BELOW ? 'others' : 'weighed'
}
