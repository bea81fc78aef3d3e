/**
 * A straight view of an all-round picture: what a lens that keeps lines straight would see of it.
 *
 * The all-round picture is equirectangular: 360° wide, 180° high, heading 0 in its middle and growing to the right, pitch growing upwards.
 * Source: J. P. Snyder, "Map Projections: A Working Manual", USGS Professional Paper 1395, 1987: chapters 12 (equidistant cylindrical) and
 * 22 (gnomonic), on a sphere.
 */
import { z } from 'zod'
import { labelled } from '../parameter'
import type { Size } from '../image/rect'
import { atan2, cos, sin } from '../kernels/exact'

export const straightViewSchema = z.strictObject({
  headingDeg: labelled(z.number().min(-180).max(180).default(0), {
    title: 'Heading',
    help: 'To the right of the middle of the all-round picture.',
    unit: '°',
    step: 1,
  }),
  pitchDeg: labelled(z.number().min(-90).max(90).default(0), {
    title: 'Pitch',
    help: 'Above the horizon; below 0 downwards.',
    unit: '°',
    step: 1,
  }),
  angleDeg: labelled(z.number().min(20).max(130).default(90), {
    title: 'Angle',
    help: 'Angle of view, from its left edge to its right.',
    unit: '°',
    step: 1,
  }),
})
export type StraightView = z.output<typeof straightViewSchema>

/** Views that have a name. */
export const NAMED_VIEWS = {
  front: { title: 'Front', headingDeg: 0, pitchDeg: 0 },
  right: { title: 'Right', headingDeg: 90, pitchDeg: 0 },
  back: { title: 'Back', headingDeg: 180, pitchDeg: 0 },
  left: { title: 'Left', headingDeg: -90, pitchDeg: 0 },
  up: { title: 'Up', headingDeg: 0, pitchDeg: 90 },
  down: { title: 'Down', headingDeg: 0, pitchDeg: -90 },
} as const

const RAD = Math.PI / 180

/** A direction: to the right of heading 0, upwards, and along heading 0. */
export type Direction = readonly [right: number, up: number, ahead: number]

/** How large a square view is whose middle is as dense as the all-round picture, px; even. */
export function sizeOfView({ angleDeg }: Pick<StraightView, 'angleDeg'>, { width }: Size): number {
  const half = (angleDeg * RAD) / 2
  return 2 * Math.round((focalOf(width) * sin(half)) / cos(half))
}

/** Px for each radian on the equator of an all-round picture. */
const focalOf = (width: number): number => width / (2 * Math.PI)

/** A view ready for looking up many places. */
export class ViewMapping {
  /** Side of the view, px. */
  readonly side: number
  readonly #focal: number
  readonly #sinH: number
  readonly #cosH: number
  readonly #sinP: number
  readonly #cosP: number

  /** @param side  Px; a view for looking may be smaller than `sizeOfView` says. */
  constructor(view: StraightView, side: number) {
    const half = (view.angleDeg * RAD) / 2
    this.side = side
    this.#focal = (side / 2) * (cos(half) / sin(half))
    this.#sinH = sin(view.headingDeg * RAD)
    this.#cosH = cos(view.headingDeg * RAD)
    this.#sinP = sin(view.pitchDeg * RAD)
    this.#cosP = cos(view.pitchDeg * RAD)
  }

  /** The direction of a place of the view, px; not of length 1. */
  directionAt(x: number, y: number): Direction {
    const [right, up] = [(x - this.side / 2) / this.#focal, (this.side / 2 - y) / this.#focal]
    const raised = up * this.#cosP + this.#sinP
    const ahead = this.#cosP - up * this.#sinP
    return [right * this.#cosH + ahead * this.#sinH, raised, ahead * this.#cosH - right * this.#sinH]
  }

  /**
   * Where a direction lies in the view, into `out` as x and y, px.
   * @returns Whether it lies before the view at all.
   */
  placeOf(right: number, up: number, ahead: number, out: Float64Array): boolean {
    const sideways = right * this.#cosH - ahead * this.#sinH
    const forward = right * this.#sinH + ahead * this.#cosH
    const depth = forward * this.#cosP + up * this.#sinP
    if (depth <= 1e-6) return false
    const height = up * this.#cosP - forward * this.#sinP
    out[0] = this.side / 2 + (this.#focal * sideways) / depth
    out[1] = this.side / 2 - (this.#focal * height) / depth
    return true
  }
}

/** Where a direction lies in an all-round picture, px. */
export function onAllRound(
  [right, up, ahead]: Direction,
  { width, height }: Size,
): { readonly x: number; readonly y: number } {
  const heading = atan2(right, ahead)
  const pitch = atan2(up, Math.sqrt(right * right + ahead * ahead))
  return { x: (heading / (2 * Math.PI) + 0.5) * width, y: (0.5 - pitch / Math.PI) * height }
}

/** Whether a picture may be all-round: twice as wide as high, or its file says so. */
export const mayBeAllRound = ({
  width,
  height,
  sphere,
}: Size & { readonly sphere: object | null }): boolean =>
  sphere !== null || (width === 2 * height && height >= 256)
