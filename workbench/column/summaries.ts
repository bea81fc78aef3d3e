/** The parts of a mend in one line each. */
import type { Area } from '../../core/mend/areas'
import { geometryAt } from '../../core/mend/geometry'
import type { Mend } from '../../core/mend/schema'
import { hasRowAt, trackSureAt, UNSURE_BELOW, type Tracks } from '../../core/mend/tracks'

const SHAPES = { path: 'Path', ellipse: 'Ellipse', box: 'Box', outline: 'Outline', matte: 'Matte' } as const

export function areaWords(area: Area, tracks: Tracks, frame: number): string {
  if (area.shape === 'matte') return 'Matte sequence'
  const geometry = geometryAt(area, tracks, frame)
  switch (geometry.shape) {
    case 'path':
      return `Path · ${geometry.points.length} points · ${Math.max(...geometry.points.map((point) => point.widthPx)).toFixed(1)} px wide`
    case 'ellipse':
      return `Ellipse · ${(2 * geometry.radiusXPx).toFixed(0)} × ${(2 * geometry.radiusYPx).toFixed(0)} px`
    case 'box':
      return `Box · ${geometry.widthPx.toFixed(0)} × ${geometry.heightPx.toFixed(0)} px`
    case 'outline':
      return `Outline · ${geometry.points.length} points`
  }
}

export function areaSummary(mend: Mend, tracks: Tracks, frame: number): string {
  const covers = mend.areas.filter((area) => area.role === 'cover')
  const holdouts = mend.areas.length - covers.length
  const first = covers[0] ?? mend.areas[0]!
  const words = covers.length > 1 ? `${covers.length} areas · ${SHAPES[first.shape].toLowerCase()}` : areaWords(first, tracks, frame)
  return holdouts > 0 ? `${words} · ${holdouts} held out` : words
}

export function motionSummary(area: Area, tracks: Tracks): string {
  if (area.shape === 'matte') return 'By its pictures'
  const track = area.follow ? tracks.get(area.follow.trackId) : undefined
  if (track) {
    const unsure = track.frames.filter(([, sure]) => sure < UNSURE_BELOW).length
    const offsets = area.keys.length > 1 ? `, ${area.keys.length - 1} offsets` : ''
    return `${track.kind === 'cling' ? 'Clings' : `Follows ${track.name}`}${offsets}${unsure > 0 ? ` · ${unsure} unsure` : ''}`
  }
  return area.keys.length === 1 ? 'Still' : `Keyed · ${area.keys.length} keys, ${area.travel}`
}

/** How sure a track is on a frame, in words. */
export const sureWords = (track: Parameters<typeof trackSureAt>[0], frame: number): string => {
  return hasRowAt(track, frame) ? `${Math.round(trackSureAt(track, frame) * 100)} % sure` : 'nothing here'
}
