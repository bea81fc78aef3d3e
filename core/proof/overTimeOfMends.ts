import type { Patch } from '../evaluate/evaluatedFrame'
import { markCellsInto, type CoarseFrame } from '../measure/coarseFrame'
import type { MendMeasure } from '../measure/mendMeasure'
import type { OtherFrame } from '../measure/expectedCells'
import { measureOverTime, type OverTime } from '../measure/overTime'

export type MendedPatch = Pick<Patch, 'rect' | 'mendedRuns'>

/** A frame as far as this looks at it. */
export interface ProvedFrame {
  readonly coarse: CoarseFrame
  readonly patches: readonly MendedPatch[]
  readonly measures: readonly MendMeasure[]
}

/**
 * What the frames around tell of the mends of one frame. Mends that see each other's pixels are measured together; what is found is told of
 * the one whose place is nearest.
 * @param expected  Frames as far before as after: between them a mend is where it goes from one to the other. @param isTold  Mends that this can be told of: others only correct what is there, and move with it.
 */
export function overTimeOfMends(
  { coarse, patches, measures }: ProvedFrame,
  expected: readonly ProvedFrame[],
  others: readonly OtherFrame[],
  isTold: (mendId: string) => boolean,
): ReadonlyMap<string, OverTime> {
  const found = new Map<string, OverTime>()
  const cellsOf = (some: readonly MendedPatch[]) => {
    const cells = new Uint8Array(coarse.cols * coarse.rows)
    for (const { rect, mendedRuns } of some) markCellsInto(cells, coarse, mendedRuns, rect)
    return cells
  }
  const all = cellsOf(patches)
  for (const patch of patches) {
    const here = measures.filter(({ mendId, x, y }) => isIn(patch.rect, x, y) && isTold(mendId))
    if (here.length === 0) continue
    const between = cellsOf(here.flatMap(({ mendId }) => patchesBetween(mendId, expected)))
    const measured = measureOverTime(coarse, { own: cellsOf([patch]), all, expected: between }, others)
    if (!measured) continue
    const at = worstOf(measured)
    const far = ({ x, y }: MendMeasure) => (at ? (x - at.x) * (x - at.x) + (y - at.y) * (y - at.y) : 0)
    const { mendId } = here.reduce((nearest, one) => (far(one) < far(nearest) ? one : nearest))
    const known = found.get(mendId)
    if (!known || (at?.e ?? 0) > (worstOf(known)?.e ?? 0)) found.set(mendId, measured)
  }
  return found
}

const worstOf = ({ inside, beside }: OverTime) =>
  inside && (!beside || inside.e > beside.e) ? inside : beside

/** Of two frames, what a mend lies on there, brought to the middle of its way from one to the other; nothing where it is not on both. */
function patchesBetween(mendId: string, frames: readonly ProvedFrame[]): MendedPatch[] {
  const places = frames.map(({ measures }) => measures.find((one) => one.mendId === mendId))
  const [a, b] = places
  if (frames.length !== 2 || !a || !b) return []
  return frames.flatMap(({ patches }, i) => {
    const own = places[i]!
    const patch = patches.find(({ rect }) => isIn(rect, own.x, own.y))
    if (!patch) return []
    const [dx, dy] = [(a.x + b.x) / 2 - own.x, (a.y + b.y) / 2 - own.y]
    const { rect, mendedRuns } = patch
    return [{ mendedRuns, rect: { ...rect, col: rect.col + Math.round(dx), row: rect.row + Math.round(dy) } }]
  })
}

const isIn = ({ col, row, width, height }: Patch['rect'], x: number, y: number): boolean =>
  x >= col - 1 && y >= row - 1 && x <= col + width + 1 && y <= row + height + 1
