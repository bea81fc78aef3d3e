/** Looks for good places to copy from: near, with a rim like the area's, clear of other mends, inside the picture, over the whole span. */
import type { Area } from '../../document/areas'
import type { Mend } from '../../document/mend'
import type { Shift } from '../../document/source'
import type { ShotDocument } from '../../plan/shotDocument'
import type { Clip } from '../../shot/clip'
import type { RunContext } from '../../shot/context'
import { Likeness } from './likeness'
import { openViews, reachOf, withEvery, type SuggestRequest } from './views'

/** Of a source that rides on the area's track, as on its reference frame. */
export interface SuggestedSource extends Shift {
  /** How unlike the rims are, in the plate's scale: 0 is the same picture. */
  readonly difference: number
}

const STEP_PX = 4
/** At first only every so manieth place of area and rim is looked at; set on `patch_01`: a third misses the better ones. */
const AT_FIRST_EVERY = 2
const MAX_SUGGESTED = 8
/** Places that are looked at closely, turned and swollen too. */
const CLOSELY = 16
const MAX_TURN_DEG = 20
const SIZES = { min: 0.75, max: 1.33 } as const
/** Places are not suggested that differ by so much more than the best, in the plate's scale: 20 code values of 8 bits. */
const MUCH_WORSE = 20 / 255
/** Turned or of another size it must fit so much better: it is read between pixels then. */
const CLEARLY = 0.92

/** @returns The best shifts, the best first, each well apart from the others; none when every place is covered. */
export async function suggestSources(
  document: ShotDocument,
  request: SuggestRequest,
  clip: Clip,
  context: RunContext,
): Promise<SuggestedSource[]> {
  const asked = askedFor(document, request)
  const views = asked ? await openViews(document, asked.mend, asked.area, request.frame, clip, context) : []
  if (views.length === 0) return []
  const likeness = new Likeness(views, clip.plate)
  const found: SuggestedSource[] = []
  const atFirst = new Likeness(
    views.map((view) => withEvery(view, AT_FIRST_EVERY)),
    clip.plate,
  )
  const reach = reachOf(likeness.sizePx)
  let best = Infinity
  for (let dy = -reach; dy <= reach; dy += STEP_PX) {
    if (context.shouldStop()) return []
    for (let dx = -reach; dx <= reach; dx += STEP_PX) {
      const one = priced(atFirst, { dx, dy, turnDeg: 0, scale: 1 }, best + MUCH_WORSE)
      if (!one) continue
      found.push(one)
      best = Math.min(best, one.difference)
    }
  }
  const apartPx = Math.max(12, likeness.sizePx / 3)
  const close: SuggestedSource[] = []
  for (const one of wellApart(found, apartPx, CLOSELY)) {
    if (context.shouldStop()) return []
    const exact = priced(likeness, one, Infinity)
    if (exact) close.push(fitted(likeness, exact))
  }
  return wellApart(close, apartPx, MAX_SUGGESTED)
}

/** The area that a source is looked for. */
export function askedFor(
  { mends }: ShotDocument,
  { mendId, areaId }: SuggestRequest,
): { readonly mend: Mend; readonly area: Area } | null {
  const mend = mends.find(({ id }) => id === mendId)
  const area = mend?.areas.find(({ id }) => id === areaId)
  return mend && area ? { mend, area } : null
}

function priced(likeness: Likeness, shift: Shift, below: number): SuggestedSource | null {
  const difference = likeness.priceOf(shift, below)
  return difference === null ? null : { ...shift, difference }
}

/** The best ones, none near a better one. */
function wellApart(found: readonly SuggestedSource[], apartPx: number, most: number): SuggestedSource[] {
  const chosen: SuggestedSource[] = []
  for (const one of [...found].sort((a, b) => a.difference - b.difference)) {
    if (chosen.length === most) break
    const isNear = (other: Shift) =>
      Math.abs(other.dx - one.dx) < apartPx && Math.abs(other.dy - one.dy) < apartPx
    if (!chosen.some(isNear)) chosen.push(one)
  }
  return chosen
}

/** The place to the pixel; then turned and swollen, where that is clearly more alike. */
function fitted(likeness: Likeness, from: SuggestedSource): SuggestedSource {
  let straight = from
  for (let dy = from.dy - STEP_PX + 1; dy < from.dy + STEP_PX; dy++) {
    for (let dx = from.dx - STEP_PX + 1; dx < from.dx + STEP_PX; dx++)
      straight = better(straight, priced(likeness, { ...from, dx, dy }, straight.difference))
  }
  let turned = straight
  for (const [turn, size, px] of [
    [6, 0.06, 2],
    [3, 0.03, 1],
    [1.5, 0.015, 0.5],
  ] as const)
    // prettier-ignore
    turned = descended(likeness, turned, turn, size, px)
  return turned.difference < CLEARLY * straight.difference ? turned : straight
}

/** Goes where it gets better, one number at a time, until none does. */
function descended(
  likeness: Likeness,
  from: SuggestedSource,
  turnDeg: number,
  size: number,
  px: number,
): SuggestedSource {
  const steps: readonly Shift[] = [-1, 1].flatMap((way) => [
    { dx: 0, dy: 0, turnDeg: way * turnDeg, scale: 1 },
    { dx: 0, dy: 0, turnDeg: 0, scale: 1 + way * size },
    { dx: way * px, dy: 0, turnDeg: 0, scale: 1 },
    { dx: 0, dy: way * px, turnDeg: 0, scale: 1 },
  ])
  let best = from
  for (;;) {
    let next = best
    for (const step of steps) {
      const shift = {
        dx: best.dx + step.dx,
        dy: best.dy + step.dy,
        turnDeg: best.turnDeg + step.turnDeg,
        scale: best.scale * step.scale,
      }
      if (Math.abs(shift.turnDeg) > MAX_TURN_DEG || shift.scale < SIZES.min || shift.scale > SIZES.max)
        continue
      next = better(next, priced(likeness, shift, next.difference))
    }
    if (next === best) return best
    best = next
  }
}

const better = (a: SuggestedSource, b: SuggestedSource | null): SuggestedSource =>
  b && b.difference < a.difference ? b : a
