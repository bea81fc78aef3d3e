/** Finds in words, as the table says them. */
import type { Find, FindKind } from '../../core/survey/finds'

export const PIXEL_NAMES = {
  dead: 'Dead pixel',
  hot: 'Hot pixel',
  warm: 'Warm pixel',
  'stuck-red': 'Stuck red pixel',
  'stuck-green': 'Stuck green pixel',
  'stuck-blue': 'Stuck blue pixel',
  cluster: 'Pixel cluster',
  column: 'Bad column',
  row: 'Bad row',
} as const

export const KIND_WORDS: Readonly<Record<FindKind, { readonly one: string; readonly many: string }>> = {
  pixel: { one: 'Pixel', many: 'Pixels' },
  mote: { one: 'Mote', many: 'Motes' },
  mark: { one: 'Mark', many: 'Marks' },
  line: { one: 'Line', many: 'Lines' },
  specks: { one: 'Specks', many: 'Specks' },
}

export function nameOf(find: Find): string {
  if (find.kind === 'pixel') return PIXEL_NAMES[find.class]
  if (find.kind === 'mark') return find.keys ? 'Travelling mark' : 'Still mark'
  if (find.kind === 'line') return find.class === 'scratch' ? 'Scratch' : 'Thin line'
  return find.kind === 'specks' ? 'Specks' : 'Mote'
}

/** Whether a find is to be seen on a frame. */
export const isOnFrame = (find: Find, frame: number): boolean =>
  find.kind === 'specks'
    ? find.specks.some((speck) => speck.frame === frame)
    : find.firstFrame <= frame && find.lastFrame >= frame

/** Where it is and how large. */
export function placeWords(find: Find): string {
  const at = `${Math.floor(find.x)}, ${Math.floor(find.y)}`
  switch (find.kind) {
    case 'pixel':
      return `${at} · ${Math.round(find.widthPx)}×${Math.round(find.heightPx)} px`
    case 'mote':
      return `${at} · ⌀ ${Math.round(find.radiusXPx + find.radiusYPx)} px, −${(-find.depthStops).toFixed(1)} stops`
    case 'mark':
      return `${at} · ${Math.round(find.widthPx)}×${Math.round(find.heightPx)} px, hides ${Math.round(100 * find.opacity)} %`
    case 'specks':
      return `${find.firstFrame}–${find.lastFrame} · ${find.specks.length} of them`
    case 'line':
      return `${find.firstFrame}–${find.lastFrame} · ${Math.round(widthOf(find))} px wide`
  }
}

const widthOf = ({ keys }: Extract<Find, { kind: 'line' }>): number => {
  const { points } = keys[0]!
  return points.reduce((sum, { widthPx }) => sum + widthPx, 0) / points.length
}

/** From which on a find is called sure. */
export const SURE_FROM = 0.8

export const sureWords = (sure: number): string =>
  `${sure >= SURE_FROM ? 'sure' : 'look'} ${sure >= 0.995 ? '1.0' : `.${String(Math.round(100 * sure)).padStart(2, '0')}`}`
