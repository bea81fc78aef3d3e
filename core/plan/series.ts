/** Dust and bad pixels come in numbers: small areas of one mend that lie near each other are filled at once. */
import { isStroke } from '../document/areas'
import type { TableArea } from './frameTable'
import type { PlannedMend } from './plannedMend'

/** Larger areas are filled each by itself: what is measured around them is their own. */
const MAX_SMALL_PX = 48
/** Small areas whose middles lie in the same square are filled at once. Its side bounds the memory that takes. */
const TILE_PX = 256

/** The covers of a mend in groups that are filled at once, in the order of the stack. */
export function seriesOf(mend: PlannedMend, covers: readonly TableArea[]): readonly (readonly TableArea[])[] {
  if (covers.length < 2 || !mayJoin(mend)) return covers.map((cover) => [cover])
  const groups = new Map<string, TableArea[]>()
  for (const cover of covers) {
    const key = tileOf(cover) ?? `alone ${cover.stackIndex}`
    const known = groups.get(key)
    if (known) known.push(cover)
    else groups.set(key, [cover])
  }
  return [...groups.values()]
}

/** Not what works along a path, copies from a place of its own, or is worked out once for the whole span. */
const mayJoin = ({ method, params, usesSource }: PlannedMend): boolean =>
  method !== null && !method.needsPath && !usesSource && !method.steady?.wants(params).anchor

function tileOf({ placed: { area, box } }: TableArea): string | null {
  if (!box || (area.shape === 'path' && !isStroke(area)) || area.follow) return null
  if (Math.max(box.width, box.height) > MAX_SMALL_PX) return null
  const [x, y] = [box.col + box.width / 2, box.row + box.height / 2]
  return `${Math.floor(x / TILE_PX)} ${Math.floor(y / TILE_PX)}`
}
