/**
 * The placements of a group by name: what each fill is called, what it leaves on the canvas, and what is measured of it.
 *
 * A name says all that the pixels hang on and nothing else: of the placements before, those alone whose pixels are looked
 * at. So an edit works out again what it touches, however many mends see each other by way of others.
 */
import { intersectRects } from '../image/rect'
import type { MendMeasure } from '../measure/mendMeasure'
import { finishedKey, joinedKey } from '../plan/keys'
import type { FramePlan } from '../plan/planFrame'
import type { Cache } from '../shot/clip'
import type { RunContext } from '../shot/context'
import { takeLaid, type Canvas, type Laid } from './canvas'
import type { Placement } from './placement'
import { fillName } from './runFill'

export interface Member {
  readonly placement: Placement
  readonly fillName: string
  readonly laidName: string
  readonly measureName: string
}

/** @param placements  In the order in which they are laid. */
export function membersOf(
  placements: readonly Placement[],
  plan: FramePlan,
  context: RunContext,
): readonly Member[] {
  const laidNames: string[] = []
  const named = placements.map((placement, i) => {
    const beneath = laidNames.filter((_, k) => sees(placement, placements[k]!))
    const filled = fillName(plan, placement, beneath, context)
    const laidName = joinedKey(['laid', filled, finishedKey(plan, placement), ...beneath])
    laidNames[i] = laidName
    return { placement, fillName: filled, laidName }
  })
  return named.map((member, i) => {
    const above = laidNames.filter((_, k) => k > i && sees(member.placement, placements[k]!))
    return { ...member, measureName: joinedKey(['measure', member.laidName, ...above]) }
  })
}

const sees = ({ lookRect }: Placement, other: Placement): boolean =>
  intersectRects(lookRect, other.writeRect) !== null

/** Of one member, as far as it is known already. */
export interface KnownMember {
  readonly laid: Laid
  /** Null where measures are not asked for. */
  readonly measure: MendMeasure | null
}

export function knownMember(
  { laidName, measureName }: Member,
  cache: Cache | undefined,
  isMeasured: boolean,
): KnownMember | null {
  const laid = cache?.get(laidName) as Laid | undefined
  const measure = isMeasured ? (cache?.get(measureName) as MendMeasure | undefined) : null
  return laid && measure !== undefined ? { laid, measure } : null
}

/** A larger rectangle is soon laid again by its fill's result, which is kept too: room is for many small ones. */
const MAX_LAID_PX = 1 << 17

/** Keeps what a member has just laid. */
export function keepLaid({ laidName, placement }: Member, canvas: Canvas, cache: Cache | undefined): void {
  const { writeRect } = placement
  if (writeRect.width * writeRect.height <= MAX_LAID_PX) cache?.set(laidName, takeLaid(canvas, writeRect))
}
