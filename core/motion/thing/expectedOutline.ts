/** Outlines as they are expected before anything is looked for. */
import { boundsOfPolygon } from '../../geometry/polygon'
import type { Frame } from '../../time'

/** An outline as it would lie on a frame if nothing were known but where it was drawn. */
export interface ExpectedOutline {
  readonly frame: Frame
  /** x, y pairs, px. */
  readonly polygon: readonly number[]
  /** Where its track is on this frame, px. */
  readonly x: number
  readonly y: number
  readonly isDrawn: boolean
}

/** An outline is looked for no further off than this share of the picture's width, between drawn frames and beyond them, and than so much a frame. */
const REACH_SHARE = { between: 0.2, beyond: 0.5 } as const
const FRAME_SHARE = 0.06

export const isBetweenDrawn = (outlines: readonly ExpectedOutline[], frame: Frame): boolean =>
  outlines.some((one) => one.isDrawn && one.frame <= frame) &&
  outlines.some((one) => one.isDrawn && one.frame >= frame)

/** How far from where it is expected an outline may lie, px; 0 where it was drawn. */
export function reachPxOf(
  outlines: readonly ExpectedOutline[],
  { polygon, frame, isDrawn }: ExpectedOutline,
  pictureWidth: number,
): number {
  if (isDrawn) return 0
  const { left, top, right, bottom } = boundsOfPolygon(polygon)
  const frames = Math.min(...outlines.flatMap((one) => (one.isDrawn ? [Math.abs(one.frame - frame)] : [])))
  const share = isBetweenDrawn(outlines, frame) ? REACH_SHARE.between : REACH_SHARE.beyond
  const far = FRAME_SHARE * pictureWidth * frames + Math.min(right - left, bottom - top) / 4
  return Math.min(share * pictureWidth, far)
}

export const MAX_BACKGROUND_FRAMES = 15

/** Frames that show the background: those with drawings, as there it is known what the thing hides, and others, evenly. */
export function backgroundFramesOf(outlines: readonly ExpectedOutline[]): ExpectedOutline[] {
  const drawn = everyFew(
    outlines.filter(({ isDrawn }) => isDrawn),
    MAX_BACKGROUND_FRAMES,
  )
  const others = outlines.filter((one) => !drawn.includes(one))
  return [...drawn, ...everyFew(others, MAX_BACKGROUND_FRAMES - drawn.length)]
}

function everyFew<T>(all: readonly T[], max: number): T[] {
  if (all.length <= max) return [...all]
  return Array.from(
    { length: max },
    (_, i) => all[Math.round((i * (all.length - 1)) / Math.max(1, max - 1))]!,
  )
}
