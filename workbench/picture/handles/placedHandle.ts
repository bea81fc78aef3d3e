/** One handle of a shape. */
import type { Geometry } from '../../../core/document/areas'

export interface PlacedHandle {
  readonly name: string
  readonly x: number
  readonly y: number
  readonly caption: string
  readonly isSmall?: boolean
  /** The shape when the handle is moved to a place. */
  move(geometry: Geometry, x: number, y: number): Geometry
  readonly onDelete?: () => void
  readonly onToggle?: () => void
  readonly onFocus?: () => void
}

export const nameOf = (index: number, count: number): string =>
  index === 0 ? 'End 1' : index === count - 1 ? 'End 2' : `Point ${index}`

/** What else may be done to a point of a shape. */
export interface PointCommands {
  remove(index: number): void
  bend(index: number, bend: 'smooth' | 'corner'): void
  focus(index: number | null): void
}

export const px = (value: number) => `${value.toFixed(1)} px`
