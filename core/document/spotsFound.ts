/** Spots that were found on skin become one mend, each an area. */
import type { Frame, FrameRange } from '../time'
import type { Spot } from '../skin/findSpots'
import { drawnArea } from './areaCommands'
import { addMend } from './commands'
import type { MendEdit, MendRecords } from './edits'

/** A spot fades out over its edge: so much wider is drawn, as a factor and px. */
const [WIDER, WIDER_PX] = [1.5, 2]

export function mendSpots(
  records: MendRecords,
  spots: readonly Pick<Spot, 'x' | 'y' | 'radiusPx'>[],
  frame: Frame,
  range: FrameRange,
  nextId: () => string,
): { readonly edit: MendEdit; readonly mendId: string } {
  const areas = spots.map(({ x, y, radiusPx }) => {
    const reach = Math.round(10 * (WIDER * radiusPx + WIDER_PX)) / 10
    return drawnArea(nextId().slice(0, 8), { shape: 'ellipse', x, y, radiusXPx: reach, radiusYPx: reach, turnDeg: 0 }, frame) // prettier-ignore
  })
  const mendId = nextId()
  return { edit: addMend(records, 'blemish', mendId, areas, range), mendId }
}
