/** A mark of the library on a shot: a mend that takes it off, drawn where the mark probably lies. */
import { unmix } from '../fill/unmix/unmix'
import type { Size } from '../image/rect'
import type { ListedMark } from './markLibrary'
import type { Frame, FrameRange } from '../time'
import { drawnArea } from './areaCommands'
import { addMend } from './commands'
import type { MendEdit, MendRecords } from './edits'
import type { KeyedArea } from './areas'
import type { MendRecord } from './mend'
import { recordEdit } from './recordEdit'

/** So much is drawn beyond the mark's picture, px. */
const BESIDE_PX = 3

type LibraryMark = Pick<ListedMark, 'name' | 'picture' | 'width' | 'height' | 'place'>

/**
 * Where its upper left corner lies in a picture: as far from the nearest edges as it was, as marks are laid over by the same hand; in the
 * lower right corner where nothing is known of that.
 */
export function likelyPlace({ width, height, place }: Omit<LibraryMark, 'name' | 'picture'>, plate: Size) {
  const along = (from: number, extent: number, before: number, now: number) =>
    from + extent / 2 <= before / 2 ? from : now - (before - from)
  if (place)
    return {
      x: along(place.leftPx, width, place.width, plate.width),
      y: along(place.topPx, height, place.height, plate.height),
    }
  const margin = Math.round(0.03 * plate.width)
  return { x: Math.max(0, plate.width - width - margin), y: Math.max(0, plate.height - height - margin) }
}

/** The box around a mark whose corner lies at a place. */
export const boxAround = (
  id: string,
  { width, height }: Size,
  x: number,
  y: number,
  frame: number,
): KeyedArea =>
  drawnArea(
    id,
    {
      shape: 'box',
      x: x + width / 2,
      y: y + height / 2,
      widthPx: width + 2 * BESIDE_PX,
      heightPx: height + 2 * BESIDE_PX,
      turnDeg: 0,
      cornerPx: 0,
    },
    frame,
  )

/** The mark of a mend lies at a place on a frame, and rests there until it is placed elsewhere. */
export function placeMarkAt(
  mend: MendRecord,
  areaId: string,
  { width, height, x, y, on }: Size & { readonly x: number; readonly y: number; readonly on: Frame },
): MendEdit {
  const box = boxAround(areaId, { width, height }, x, y, on)
  const areas = mend.areas.map((area) =>
    area.id === areaId ? { ...box, interpolation: 'linear' as const } : area,
  )
  const params = { ...mend.fill.params, on, leftPx: x, topPx: y }
  return recordEdit(mend, { ...mend, areas, fill: { ...mend.fill, params } }, `${mend.name} is placed`)
}

/** @returns null where a mend of the shot takes it off already. */
export function layMark(
  records: MendRecords,
  mark: LibraryMark,
  plate: FrameRange & Size,
  newId: () => string,
): MendEdit | null {
  const isThere = ({ fill }: MendRecord) => fill.methodId === unmix.id && fill.params['mark'] === mark.picture
  if ([...records.values()].some(isThere)) return null
  const { x, y } = likelyPlace(mark, plate)
  const edit = addMend(records, 'mark', newId(), [boxAround(newId(), mark, x, y, plate.firstFrame)], plate)
  const params = unmix.params.parse({ mark: mark.picture, on: plate.firstFrame, leftPx: x, topPx: y })
  const fill = { methodId: unmix.id, methodVersion: unmix.version, params }
  const changes = edit.changes.map((change) => ({
    ...change,
    after: change.after && { ...change.after, fill },
  }))
  return { ...edit, label: `Take ${mark.name} off`, changes }
}
