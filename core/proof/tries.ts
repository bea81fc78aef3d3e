/** What may help where something shows: edits of the mend, each one step that can be taken back. */
import { setGeometry } from '../document/areaCommands'
import { isKeyed, isPaintedAt, isStroke } from '../document/areas'
import { fillChosen, setFill, setFinish } from '../document/commands'
import type { MendEdit } from '../document/edits'
import { widenStrokes } from '../document/strokeCommands'
import { geometryAt } from '../document/keyedGeometry'
import type { MendRecord } from '../document/mend'
import type { Tracks } from '../document/tracks'
import { findFill } from '../fill/registry'
import type { Frame } from '../time'
import type { Snag, SnagReason } from '../snags/snags'

/** Something to try; looking for a line again is work of its own, all else an edit. */
export type Try =
  | { readonly kind: 'edit'; readonly words: string; readonly edit: MendEdit }
  | { readonly kind: 'cling'; readonly words: string; readonly areaId: string }

type Way = 'widen' | 'feather' | 'key' | 'cling' | 'grain-more' | 'grain-less' | `fill:${string}`

const WAYS: Readonly<Partial<Record<SnagReason, readonly Way[]>>> = {
  'track-lost': ['key', 'cling'],
  'track-unsure': ['key', 'cling'],
  'area-jump': ['key'],
  'no-start-key': ['key'],
  'line-shows': ['widen', 'cling', 'key'],
  differs: ['widen', 'key', 'cling', 'fill:clean-plate'],
  'rim-shows': ['feather', 'widen'],
  flicker: ['fill:clean-plate', 'feather'],
  'grain-smooth': ['grain-more'],
  'grain-strong': ['grain-less'],
  repeats: ['fill:texture', 'fill:clean-plate'],
  'never-seen': ['fill:either', 'fill:texture'],
  'registration-unsure': ['fill:borrow', 'fill:either'],
  ghost: ['widen', 'fill:borrow'],
  'source-outside': ['fill:clean-plate', 'fill:texture'],
  'source-covered': ['fill:clean-plate', 'fill:texture'],
  'mark-edge': ['widen', 'fill:clean-plate'],
  'mark-ghost': ['fill:clean-plate'],
  'mark-beside': ['key'],
  clipped: ['fill:clean-plate'],
  'shade-off': ['fill:clean-plate'],
  soft: ['fill:clean-plate'],
}

const WIDEN_PX = 1
const FEATHER_PX = 1
const GRAIN_STEP = 0.2

/** What to try for a snag, the most likely first; what would change nothing is left out. */
export function triesFor(
  { reason, frame }: Pick<Snag, 'reason' | 'frame'>,
  mend: MendRecord,
  tracks: Tracks,
): Try[] {
  return (WAYS[reason] ?? []).flatMap((way): Try[] => {
    const { finish } = mend
    switch (way) {
      case 'widen':
        return [{ kind: 'edit', words: 'Widen by 1 px', edit: widened(mend, frame, tracks) }]
      case 'feather':
        // Strokes fade as their tip does.
        if (mend.areas.some(isStroke)) return []
        return [{ kind: 'edit', words: 'Softer edge by 1 px', edit: setFinish(mend, { featherOutPx: finish.featherOutPx + FEATHER_PX }, 'Feather out') }] // prettier-ignore
      case 'grain-more':
      case 'grain-less': {
        const grain = Math.min(
          2,
          Math.max(0, finish.grain + (way === 'grain-more' ? GRAIN_STEP : -GRAIN_STEP)),
        )
        const words = way === 'grain-more' ? 'More grain' : 'Less grain'
        return grain === finish.grain
          ? []
          : [{ kind: 'edit', words, edit: setFinish(mend, { grain }, 'Grain') }]
      }
      case 'key': {
        const area = mend.areas.find((one) => isKeyed(one) && !isStroke(one) && one.role === 'cover')
        if (!area || !isKeyed(area) || area.keys.some((key) => key.frame === frame)) return []
        return [{ kind: 'edit', words: 'Key here', edit: setGeometry(mend, area.id, tracks, frame, geometryAt(area, tracks, frame), 'Key') }] // prettier-ignore
      }
      case 'cling': {
        const path = mend.areas.find((one) => one.shape === 'path' && !isStroke(one))
        return path ? [{ kind: 'cling', words: 'Cling again from here', areaId: path.id }] : []
      }
      default: {
        const method = findFill(way.slice('fill:'.length))
        if (!method || method.id === mend.fill.methodId) return []
        return [{ kind: 'edit', words: `Fill: ${method.title}`, edit: setFill(mend, fillChosen(mend, method, frame), method.title) }] // prettier-ignore
      }
    }
  })
}

/** Wider by as much on each side: an area by its finish, a brush by its strokes on this frame, which have edges of their own. */
function widened(mend: MendRecord, frame: Frame, tracks: Tracks): MendEdit {
  const strokes = mend.areas.filter(isStroke).filter((stroke) => isPaintedAt(stroke, frame))
  if (strokes.length === 0) return setFinish(mend, { growPx: mend.finish.growPx + WIDEN_PX }, 'Grow')
  const wide = Math.max(...strokes.flatMap(({ keys }) => keys.flatMap(({ points }) => points.map(({ widthPx }) => widthPx)))) // prettier-ignore
  const ids = new Set(strokes.map(({ id }) => id))
  return widenStrokes(mend, ids, (wide + 2 * WIDEN_PX) / wide, { frame, tracks })
}
