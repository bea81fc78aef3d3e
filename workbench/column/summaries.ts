/** The parts of a mend in one line each. */
import { findFill } from '../../core/fill/registry'
import { isStroke, type Area } from '../../core/document/areas'
import { geometryAt } from '../../core/document/keyedGeometry'
import type { Mend } from '../../core/document/mend'
import type { FrameRange } from '../../core/time'
import { hasRowAt, trackSureAt, UNSURE_BELOW, type Tracks } from '../../core/document/tracks'

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
  const words =
    covers.length > 1
      ? `${covers.length} areas · ${SHAPES[first.shape].toLowerCase()}`
      : areaWords(first, tracks, frame)
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
  return area.keys.length === 1 ? 'Still' : `Keyed · ${area.keys.length} keys, ${area.interpolation}`
}

/** How sure a track is on a frame, in words. */
export const sureWords = (track: Parameters<typeof trackSureAt>[0], frame: number): string => {
  return hasRowAt(track, frame) ? `${Math.round(trackSureAt(track, frame) * 100)} % sure` : 'nothing here'
}

const FROM: Readonly<Record<string, string>> = {
  'clean-plate': 'from other frames',
  lift: 'from under the dust itself',
  'lift-shadow': 'the ground in the shadow',
  unmix: 'what is under the mark',
  either: 'from both sides, or places like it',
  borrow: 'from another frame',
  still: 'a picture',
  across: 'from both sides',
  texture: 'from similar places',
  heal: 'structure and rim',
  clone: 'from its source',
  membrane: 'from the rim',
  median: 'of a disc',
  near: 'nearest good pixels',
  soften: 'what is there',
  light: 'what is there',
  colour: 'one colour',
  regrain: 'what is there, its grain anew',
  plate: 'as it was read',
  'even-skin': 'tone and pores stay',
  cut: 'a hole',
}

export function fillSummary({ kind, areas, fill, source }: Mend): string {
  if (kind === 'brush') {
    const strokes = areas.filter(isStroke).length
    return strokes === 1 ? '1 stroke' : `${strokes} strokes`
  }
  const method = findFill(fill.methodId)
  if (!method) return fill.methodId
  const lacks = method.needsSource?.(method.params.parse(fill.params)) && !source
  return lacks ? `${method.title} · no source yet` : `${method.title} — ${FROM[method.id] ?? 'from around'}`
}

export function finishSummary({ finish, fill }: Mend): string {
  const grain = findFill(fill.methodId)?.keepsThing
    ? ''
    : finish.grain === 1
      ? ' · grain matched'
      : ` · grain ${finish.grain.toFixed(2)}×`
  const trims = [
    ...(finish.exposureStops !== 0
      ? [`${finish.exposureStops > 0 ? '+' : ''}${finish.exposureStops.toFixed(2)} stops`]
      : []),
    ...(finish.saturation !== 1 ? [`saturation ${finish.saturation.toFixed(2)}×`] : []),
    ...(finish.strength !== 1 ? [`strength ${finish.strength.toFixed(2)}`] : []),
  ]
  return [`Feather ${(finish.featherInPx + finish.featherOutPx).toFixed(1)} px${grain}`, ...trims].join(' · ')
}

export function spanSummary({ span }: Mend, plate: FrameRange): string {
  const frames = `${span.firstFrame}–${span.lastFrame}`
  const isWhole = span.firstFrame === plate.firstFrame && span.lastFrame === plate.lastFrame
  const ramps =
    span.rampInFrames + span.rampOutFrames > 0
      ? ` · ramps ${span.rampInFrames} and ${span.rampOutFrames} frames`
      : ''
  return `${frames}${isWhole ? ' · whole shot' : ''}${ramps}`
}
