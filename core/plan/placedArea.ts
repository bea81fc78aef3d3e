/** Areas on one frame: keys and tracks worked out. */
import {
  areaVisibility,
  followMotion,
  geometryAt,
  isBentBy,
  keyedGeometryAt,
  numbersOf,
  polygonOf,
  trackOf,
} from '../document/keyedGeometry'
import { isStroke, type Area, type Geometry, type KeyedArea } from '../document/areas'
import type { Mend } from '../document/mend'
import { rampAt } from '../document/span'
import type { Track, Tracks } from '../document/tracks'
import { createPathCurve, type PathPoint } from '../geometry/pathCurve'
import { apply, type Matrix3, type Place } from '../geometry/transform'
import { growRect, type Rect } from '../image/rect'
import { digestOf } from '../shot/digest'
import type { Frame } from '../time'
import { boxAround, boxOfPolygon } from './boxes'

export type PlacedShape =
  /** Its ends are cut off sharp; those of a stroke are round. With a spacing it is a row of dabs, so many widths apart. */
  | {
      readonly shape: 'path'
      readonly points: readonly PathPoint[]
      readonly isRound?: true
      readonly spacing?: number
    }
  /** x, y pairs. */
  | { readonly shape: 'closed'; readonly polygon: readonly number[] }
  | { readonly shape: 'matte'; readonly pattern: string }

/** Dabs that lie closer are an unbroken line. */
const MIN_SPACING = 0.1

/** Whether a mend changes anything on a frame. */
export const isActiveAt = (mend: Mend, frame: Frame): boolean =>
  mend.isOn && mend.finish.strength > 0 && rampAt(mend.span, frame) > 0

/** An area on a frame. What is costly is worked out when it is asked for, and once. */
export interface PlacedArea {
  readonly area: Area
  readonly shape: PlacedShape
  /** As drawn, a path's width included; null for a matte, whose pictures are not known here. */
  readonly box: Rect | null
  /** How far it is visible, 0 to 1. */
  readonly visibility: number
  /** Of its points; the corner of the picture for a matte. */
  readonly middle: Place
  /** What tells it from any other shape. */
  readonly digest: string
}

/** Frames of an area that are kept: playing and gathering ask for the same ones again and again. */
const MAX_KEPT = 128

interface Kept {
  readonly track: Track | null
  readonly byFrame: Map<Frame, PlacedArea>
}

const kept = new WeakMap<Area, Kept>()

/** An area on a frame. Asked for many times of the same area: the last answers are kept with it. */
export function placeArea(area: Area, tracks: Tracks, frame: Frame): PlacedArea {
  const track = area.shape === 'matte' ? null : trackOf(area, tracks)
  let known = kept.get(area)
  if (!known || known.track !== track) kept.set(area, (known = { track, byFrame: new Map() }))
  const at = isResting(area, track) ? 0 : frame
  let placed = known.byFrame.get(at)
  if (placed) return placed
  placed = area.shape === 'matte' ? new MatteOnFrame(area, frame) : new AreaOnFrame(area, tracks, frame)
  if (known.byFrame.size >= MAX_KEPT) known.byFrame.delete(known.byFrame.keys().next().value!)
  known.byFrame.set(at, placed)
  return placed
}

/** The same on every frame. */
const isResting = (area: Area, track: Track | null): boolean =>
  area.shape !== 'matte' && track === null && area.keys.length === 1

class MatteOnFrame implements PlacedArea {
  readonly area: Area
  readonly shape: PlacedShape
  readonly box = null
  readonly visibility = 1
  readonly middle = { x: 0, y: 0 }
  readonly #frame: Frame

  constructor(area: Area & { shape: 'matte' }, frame: Frame) {
    this.area = area
    this.shape = { shape: 'matte', pattern: area.pattern }
    this.#frame = frame
  }

  get digest(): string {
    return digestOf([`matte ${this.#frame} ${(this.area as Area & { shape: 'matte' }).pattern}`])
  }
}

class AreaOnFrame implements PlacedArea {
  readonly area: KeyedArea
  readonly visibility: number
  readonly #geometry: Geometry
  /** The keyed shape and what carries it, where that is more than its geometry says: a box on a wall keeps to the wall's perspective. */
  readonly #carried: { readonly keyed: Exclude<Geometry, { shape: 'path' }>; readonly by: Matrix3 } | null
  #shape: PlacedShape | undefined
  #box: Rect | undefined
  #middle: Place | undefined
  #digest: string | undefined

  constructor(area: KeyedArea, tracks: Tracks, frame: Frame) {
    this.area = area
    this.#geometry = geometryAt(area, tracks, frame)
    this.#carried = null
    const track = trackOf(area, tracks)
    this.visibility = areaVisibility(area, tracks, frame)
    if (this.#geometry.shape === 'path') return
    const isBent = track !== null && (track.kind === 'cling' || isBentBy(track, area.follow!, area.shape))
    const keyed = track && !isBent ? keyedGeometryAt(area, frame) : null
    const by = keyed && followMotion(area, track!, frame, keyed)
    if (keyed && by && keyed.shape !== 'path') this.#carried = { keyed, by }
  }

  get shape(): PlacedShape {
    return (this.#shape ??= this.#work())
  }

  #work(): PlacedShape {
    if (this.#geometry.shape === 'path') {
      const { points } = this.#geometry
      if (!isStroke(this.area)) return { shape: 'path', points }
      const { spacing } = this.area.stroke
      return { shape: 'path', points, isRound: true, ...(spacing < MIN_SPACING ? {} : { spacing }) }
    }
    return {
      shape: 'closed',
      polygon: this.#carried
        ? movedPolygon(polygonOf(this.#carried.keyed), this.#carried.by)
        : polygonOf(this.#geometry),
    }
  }

  get box(): Rect {
    return (this.#box ??= boxOfShape(this.shape as Exclude<PlacedShape, { shape: 'matte' }>))
  }

  get middle(): Place {
    return (this.#middle ??= middleOfShape(this.shape))
  }

  get digest(): string {
    if (this.#digest === undefined) {
      const numbers = this.#carried
        ? [...numbersOf(this.#carried.keyed), ...this.#carried.by]
        : numbersOf(this.#geometry)
      const shape = isStroke(this.area) ? `stroke ${this.area.stroke.spacing}` : this.#geometry.shape
      this.#digest = digestOf([shape, Float64Array.from(numbers)])
    }
    return this.#digest
  }
}

function boxOfShape(shape: Exclude<PlacedShape, { shape: 'matte' }>): Rect {
  if (shape.shape === 'closed') return boxOfPolygon(shape.polygon)
  const curve = createPathCurve(shape.points)
  return growRect(boxAround(curve.xs, curve.ys), Math.ceil(maxOf(curve.widths) / 2))
}

const maxOf = (values: ArrayLike<number>): number => {
  let max = -Infinity
  for (let i = 0; i < values.length; i++) if (values[i]! > max) max = values[i]!
  return max
}

export function movedPolygon(polygon: readonly number[], motion: Matrix3): number[] {
  const out: number[] = []
  for (let i = 0; i < polygon.length; i += 2) {
    const { x, y } = apply(motion, polygon[i]!, polygon[i + 1]!)
    out.push(x, y)
  }
  return out
}

export function middleOfShape(shape: PlacedShape): Place {
  if (shape.shape === 'matte') return { x: 0, y: 0 }
  let [x, y] = [0, 0]
  if (shape.shape === 'path') {
    for (const point of shape.points) {
      x += point.x
      y += point.y
    }
    return { x: x / shape.points.length, y: y / shape.points.length }
  }
  const { polygon } = shape
  for (let i = 0; i < polygon.length; i += 2) {
    x += polygon[i]!
    y += polygon[i + 1]!
  }
  return { x: (2 * x) / polygon.length, y: (2 * y) / polygon.length }
}
