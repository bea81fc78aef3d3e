/** Specks as mends: dabs of a brush, each on its frame, that show what the frames beside it have there. */
import { cos, sin } from '../kernels/exact'
import type { Find } from '../survey/finds'
import type { FrameRange } from '../time'
import type { Area } from './areas'
import { DEFAULT_BRUSH, strokeArea } from './brush'
import { addMend, freeName } from './commands'
import type { MendEdit, MendRecords } from './edits'

type SpecksFind = Extract<Find, { kind: 'specks' }>

/** Frames to either side that a speck is healed from. */
const SPECK_FRAMES = 2
/** Its soft edge is dirt too. */
const SPECK_MARGIN_PX = 2

/** Brushes with a dab for each speck. @param max  Dabs that one of them holds. */
export function specksEdits(
  records: MendRecords,
  find: SpecksFind,
  range: FrameRange,
  { newId, max }: { readonly newId: () => string; readonly max: number },
): MendEdit[] {
  const dabs = find.specks.map((speck, i) => dabOn(`${find.id}-${i}`, speck, range))
  const edits: MendEdit[] = []
  let now = records
  for (let from = 0; from < dabs.length; from += max) {
    const edit = addMend(now, 'brush', newId(), dabs.slice(from, from + max), range)
    const [{ id, after }] = edit.changes as [MendEdit['changes'][number]]
    const named = { ...after!, name: freeName(now, 'Specks') }
    edits.push({ ...edit, label: `Add ${named.name}`, changes: [{ id, before: null, after: named }] })
    now = new Map([...now, [id, named]])
  }
  return edits
}

function dabOn(
  id: string,
  { frame, x, y, lengthPx, widthPx, turnDeg }: SpecksFind['specks'][number],
  range: FrameRange,
): Area {
  const turn = (turnDeg * Math.PI) / 180
  const [dx, dy] = [(cos(turn) * lengthPx) / 2, (sin(turn) * lengthPx) / 2]
  const tipPx = widthPx + 2 * SPECK_MARGIN_PX
  const points = lengthPx < 1 ? [{ x, y, pressure: 1 }] : [{ x: x - dx, y: y - dy, pressure: 1 }, { x: x + dx, y: y + dy, pressure: 1 }] // prettier-ignore
  const settings = { ...DEFAULT_BRUSH, lays: 'behind', past: 'mends', sizePx: tipPx, softness: Math.min(1, 2 / tipPx) } as const // prettier-ignore
  const area = strokeArea(id, points, settings, frame, range)
  const { stroke } = area
  const params = { ...stroke.fill.params, before: SPECK_FRAMES, after: SPECK_FRAMES, every: 1 }
  return { ...area, stroke: { ...stroke, fill: { ...stroke.fill, params } } }
}
