/** A mark whose picture is known: its mend takes it off, and its area goes along its legs. */
import type { CurveKey } from '../curveKeys'
import { cleanPlate } from '../fill/cleanPlate/cleanPlate'
import { defaultsOf } from '../fill/registry'
import { unmix } from '../fill/unmix/unmix'
import { translationBy } from '../geometry/transform'
import type { Frame } from '../time'
import type { Area, KeyedArea } from './areas'
import { setFill } from './commands'
import { applyChanges, squashEdits, type MendEdit } from './edits'
import { geometryAt, movedBy } from './keyedGeometry'
import { withGeometryAt, withOnlyGeometry } from './keys'
import type { MendRecord } from './mend'
import type { FillSettings } from './fillSettings'
import { recordEdit } from './recordEdit'
import type { Tracks } from './tracks'

/** Where a mark lies on a frame, as a shift from where its area lies on the frame of reference, px. */
export interface MarkLeg {
  readonly frame: Frame
  readonly dx: number
  readonly dy: number
}

/** What shows what is under a mark: its own picture, undone; that weighed with other frames; or other frames alone. */
export type MarkShownBy = 'undone' | 'weighed' | 'others'

export interface TakenMark {
  /** The name under which its picture is kept. */
  readonly name: string
  /** The frame of reference, and where the upper left corner of the picture lies there, px. */
  readonly on: Frame
  readonly col: number
  readonly row: number
  /** Where its course begins, bends and ends; one for a mark that rests. */
  readonly legs: readonly MarkLeg[]
  /** How much of it is there, keyed; a single key for one that does not fade. */
  readonly fades: readonly CurveKey[]
  /** How much of the mark covers so much that it has to be filled, 0 to 1. */
  readonly denseShare: number
  readonly shownBy: MarkShownBy
}

/** From so much on other frames are asked for what is under the dense parts; and from so much hardly anything is left to be undone. */
const MANY_DENSE = 0.02
const OPAQUE = 0.5

/** Whether a mark hides what is under it, so that there is nothing to undo: other frames, or what is near, have to show it. */
export const isOpaque = ({ denseShare }: Pick<TakenMark, 'denseShare'>): boolean => denseShare >= OPAQUE

/** Whether an area shows a part of a mark: several of them go together, and what is held out stays. */
export const isPartOfMark = (area: Area): area is KeyedArea =>
  area.role === 'cover' && area.shape !== 'matte' && area.shape !== 'path'

/** The edit that takes a mark off; an opaque one keeps its fill. Its areas are drawn as they were, where its legs take them. */
export function takeMarkOff(mend: MendRecord, tracks: Tracks, mark: TakenMark): MendEdit {
  const label = `${mend.name} is taken off`
  const moved = mark.legs.length === 0 ? null : moveAlong(mend, tracks, mark, label)
  if (isOpaque(mark)) return moved ?? { label, changes: [], tracks: [] }
  const records = applyChanges(new Map([[mend.id, mend]]), moved?.changes ?? [])
  const here = records.get(mend.id)!
  const filled = setFill(here, mark.shownBy === 'others' ? byOthers() : byPicture(mark), label)
  return moved ? { ...squashEdits(moved, filled), label } : filled
}

const byOthers = (): FillSettings => ({
  methodId: cleanPlate.id,
  methodVersion: cleanPlate.version,
  params: defaultsOf(cleanPlate),
})

function byPicture(mark: TakenMark): FillSettings {
  const params = unmix.params.parse({
    mark: mark.name,
    on: mark.on,
    leftPx: mark.col,
    topPx: mark.row,
    fades: mark.fades,
    fillFrom: mark.denseShare > MANY_DENSE ? 'frames' : 'near',
    others: mark.shownBy === 'weighed' ? 'weighed' : 'no',
  })
  return { methodId: unmix.id, methodVersion: unmix.version, params }
}

function moveAlong(mend: MendRecord, tracks: Tracks, { legs, on }: TakenMark, label: string): MendEdit {
  const [first, ...rest] = legs as [MarkLeg, ...MarkLeg[]]
  const along = (area: KeyedArea): KeyedArea => {
    const drawn = geometryAt(area, tracks, on)
    const at = ({ dx, dy }: MarkLeg) => movedBy(translationBy(dx, dy), drawn)
    const resting: KeyedArea = { ...area, follow: null, interpolation: 'linear' }
    return rest.reduce<KeyedArea>(
      (moved, leg) => withGeometryAt(moved, tracks, leg.frame, at(leg)),
      withOnlyGeometry(resting, tracks, first.frame, at(first)),
    )
  }
  const areas = mend.areas.map((area) => (isPartOfMark(area) ? along(area) : area))
  return recordEdit(mend, { ...mend, areas }, label)
}
