/**
 * LM_020, "The tin handcart": a locked camera before a shuttered shop. The cart rocks on its wheel, a rod holds
 * it up, a clamp was left on the doorstep, a paper banner blows across in front. Positions are px of the frame.
 */
import { exp, sin } from '../../core/kernels/exact'

export const LM_020 = {
  name: 'LM_020',
  title: 'The tin handcart',
  width: 1280,
  height: 720,
  frameRate: { num: 24, den: 1 },
  firstFrame: 1001,
  frameCount: 48,
  seed: 20260402,
  /** Deviation of the film grain in 8-bit code values, at middle brightness; less in the dark and in the bright. */
  grainLevel8: 2.1,
  /** Deviation of the grain's own blur: how coarse it is. */
  grainCoarsePx: 0.55,
} as const

export interface Place {
  readonly x: number
  readonly y: number
}

export interface Moment {
  readonly frame: number
  /** How far the cart is from where it was painted. */
  readonly cart: Place
  /** The rod's centreline from the cart's underside to the ground, and its width. */
  readonly rod: { readonly from: Place; readonly to: Place; readonly widthPx: number }
  readonly clamp: { readonly x: number; readonly y: number; readonly outline: readonly number[] }
  /** Outline of the banner where any of it is seen, motion blur included; x, y pairs, clockwise from its left top. */
  readonly banner: readonly number[]
}

export const ROD_WIDTH_PX = 24
/** Its middle, and an outline round it and its soft shadow; x, y pairs. */
export const CLAMP: Moment['clamp'] = {
  x: 966,
  y: 508,
  outline: [
    908, 536, 916, 476, 958, 470, 964, 458, 1008, 458, 1013, 474, 1012, 520, 1030, 534, 1024, 556, 914, 556,
  ],
}
export const BANNER = { widthPx: 330, heightPx: 132, blurPx: 9, edgeStepPx: 15 } as const

const TAU = 2 * Math.PI

/** The phase of the shot: 0 at its first frame, 1 at its last. Shutter times fall between frames. */
const phaseOf = (frame: number) => (frame - LM_020.firstFrame) / (LM_020.frameCount - 1)

/** Left edge of the banner; it hangs back for a while in front of the doorstep, then is blown on. */
export function bannerLeft(frame: number): number {
  const t = phaseOf(frame)
  const blown = 1 / (1 + exp(-9 * (t - 0.78)))
  return 1330 - 780 * t * (2 - t) * 0.78 - 1250 * blown
}

/** Height of the banner's middle line over the frame at `along` px from its left edge. */
export function bannerMiddle(frame: number, along: number): number {
  const t = phaseOf(frame)
  return 488 + 40 * sin(TAU * 1.1 * t + 0.4) + (9 + 0.03 * along) * sin(0.021 * along + TAU * 3.2 * t)
}

export function momentAt(frame: number): Moment {
  const t = phaseOf(frame)
  const cart = { x: 2.6 * sin(TAU * 0.9 * t), y: 1.7 * sin(TAU * 1.7 * t + 0.6) }
  const left = bannerLeft(frame)
  const margin = BANNER.blurPx
  const steps = Math.ceil((BANNER.widthPx + 2 * margin) / BANNER.edgeStepPx)
  const edge = (offsetPx: number) =>
    Array.from({ length: steps + 1 }, (_, i) => {
      const along = Math.min(i * BANNER.edgeStepPx, BANNER.widthPx + 2 * margin) - margin
      return { x: left + along, y: bannerMiddle(frame, along) + offsetPx }
    })
  const half = BANNER.heightPx / 2 + 3
  const outline = [...edge(-half), ...edge(half).reverse()]
  return {
    frame,
    cart,
    rod: { from: { x: 668 + cart.x, y: 436 + cart.y }, to: { x: 684, y: 648 }, widthPx: ROD_WIDTH_PX },
    clamp: CLAMP,
    banner: outline.flatMap(({ x, y }) => [x, y]),
  }
}
