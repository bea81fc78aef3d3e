/** Where a mark lies that is not where it was expected: its picture is laid over the ground at every place around. */
import { growRect } from '../image/rect'
import type { RunContext } from '../shot/context'
import type { EstimatedMark } from './estimateMark'
import { groundUnder, type Ground, type MarkFootage } from './groundUnder'
import type { MarkPlace } from './markPlaces'

/** So far it is looked for, px: at every other place, then right around the best. */
const FAR_PX = 48
const STEP_PX = 2
/** Places of the mark that are compared, at most; fainter ones tell nothing. */
const PLACES = 1500
const MIN_OPACITY = 0.05
/** Less alike, it is not there. */
const MIN_ALIKE = 0.5

/** @returns null when it was stopped, or it is nowhere around. */
export async function searchMark(
  footage: MarkFootage,
  mark: EstimatedMark,
  place: MarkPlace,
  context: RunContext,
): Promise<{ readonly place: MarkPlace; readonly ground: Ground } | null> {
  const rect = growRect({ col: mark.col, row: mark.row, width: mark.width, height: mark.height }, FAR_PX)
  // What it hides may lie anywhere around.
  const anywhere = { rect, mask: new Uint8Array(rect.width * rect.height).fill(1) }
  const ground = await groundUnder(footage, anywhere, place, context)
  if (!ground || context.shouldStop()) return null
  const some = placesOf(mark)
  const [col, row] = [Math.round(mark.col + place.dx), Math.round(mark.row + place.dy)]
  let best = { alike: -1, x: 0, y: 0 }
  const look = (fromX: number, fromY: number, reach: number, step: number) => {
    for (let y = fromY - reach; y <= fromY + reach; y += step) {
      for (let x = fromX - reach; x <= fromX + reach; x += step) {
        const alike = alikeAt(mark, some, ground, col + x, row + y)
        if (alike > best.alike) best = { alike, x, y }
      }
    }
  }
  look(0, 0, FAR_PX, STEP_PX)
  look(best.x, best.y, STEP_PX - 1, 1)
  if (best.alike < MIN_ALIKE) return null
  const found = { frame: place.frame, dx: col + best.x - mark.col, dy: row + best.y - mark.row }
  return { place: found, ground }
}

/** Places that the mark changes, evenly. */
function placesOf({ opacity }: EstimatedMark): Int32Array {
  const all = [...opacity.keys()].filter((at) => opacity[at]! > MIN_OPACITY)
  const every = Math.max(1, Math.ceil(all.length / PLACES))
  return Int32Array.from(all.filter((_, i) => i % every === 0))
}

/** Correlation of what is there beyond the ground with what the mark would add to it, its upper left corner on a pixel: -1 to 1. */
function alikeAt(
  { width, channels: colours, opacity, added }: EstimatedMark,
  places: Int32Array,
  { rect, plate, ground }: Ground,
  col: number,
  row: number,
): number {
  const { channels } = plate
  let [both, expected, there] = [0, 0, 0]
  for (let k = 0; k < places.length; k++) {
    const at = places[k]!
    const down = (at / width) | 0
    const x = col - rect.col + at - down * width
    const y = row - rect.row + down
    if (x < 0 || y < 0 || x >= rect.width || y >= rect.height) continue
    const from = (y * rect.width + x) * channels
    for (let c = 0; c < colours; c++) {
      const bare = ground.data[from + c]!
      const change = added[at * colours + c]! - opacity[at]! * bare
      const seen = plate.data[from + c]! - bare
      both += change * seen
      expected += change * change
      there += seen * seen
    }
  }
  return expected > 0 && there > 0 ? both / Math.sqrt(expected * there) : -1
}
