/** All areas that are on at a frame, placed once, and which of them lie near a place. */
import Flatbush from 'flatbush'
import { isPaintedAt, isStroke } from '../document/areas'
import type { Mend } from '../document/mend'
import { growRect, intersectRects, type Rect } from '../image/rect'
import { outerPxOf, type Edge } from '../matte/edge'
import type { Frame } from '../time'
import { isActiveAt, placeArea, type PlacedArea } from './placedArea'
import { plannedMend, plannedStroke, type PlannedMend } from './plannedMend'
import type { ShotDocument } from './shotDocument'

export interface TableArea {
  readonly placed: PlacedArea
  readonly mend: PlannedMend
  /** Where it stands among all areas of the frame: later ones lie on top. */
  readonly stackIndex: number
  readonly isHoldout: boolean
  /** As drawn: what looks for the thing outside its area counts as larger on its own frame only. */
  readonly edge: Edge
  /** Whether what it covers is nothing to learn from: trouble, or held out of it. */
  readonly isTrouble: boolean
  /** All that it may cover; null for a matte: anything. */
  readonly bounds: Rect | null
}

export interface FrameTable {
  readonly frame: Frame
  readonly areas: readonly TableArea[]
  /** Areas that may cover something of a rectangle, in the order of the stack. */
  near(rect: Rect): readonly TableArea[]
}

const HARD: Edge = { featherOutPx: 0, featherInPx: 0, growPx: 0 }
/** Fewer are looked through one by one. */
const MIN_FOR_INDEX = 48

export function frameTable({ mends, tracks }: ShotDocument, frame: Frame): FrameTable {
  const areas: TableArea[] = []
  for (const mend of mends) if (isActiveAt(mend, frame)) addMend(areas, mend, tracks, frame)
  return { frame, areas, near: nearOf(areas) }
}

function addMend(areas: TableArea[], mend: Mend, tracks: ShotDocument['tracks'], frame: Frame): void {
  const whole = plannedMend(mend)
  for (const area of mend.areas) {
    if (isStroke(area) && !isPaintedAt(area, frame)) continue
    const planned = isStroke(area) ? plannedStroke(mend, area) : whole
    const drawn = isStroke(area) ? planned.finish : mend.finish
    const reach = Math.max(0, outerPxOf(planned.finish), outerPxOf(drawn))
    const placed = placeArea(area, tracks, frame)
    const isHoldout = area.role === 'holdout'
    areas.push({
      placed,
      mend: planned,
      stackIndex: areas.length,
      isHoldout,
      isTrouble: isHoldout || planned.method?.hidesNothing !== true,
      edge: isHoldout ? HARD : drawn,
      bounds: placed.box && growRect(placed.box, isHoldout ? 1 : Math.ceil(reach) + 1),
    })
  }
}

function nearOf(areas: readonly TableArea[]): FrameTable['near'] {
  const oneByOne = (rect: Rect) => areas.filter(({ bounds }) => !bounds || intersectRects(bounds, rect))
  if (areas.length < MIN_FOR_INDEX) return oneByOne
  let index: Flatbush | undefined
  return (rect) => {
    index ??= indexOf(areas)
    const found = index.search(rect.col, rect.row, rect.col + rect.width - 1, rect.row + rect.height - 1)
    return found.sort((a, b) => a - b).map((at) => areas[at]!)
  }
}

const FAR = 1e9

/** Source: A. Guttman, "R-trees", SIGMOD 1984; packed by a Hilbert curve: the package flatbush. */
function indexOf(areas: readonly TableArea[]): Flatbush {
  const index = new Flatbush(areas.length)
  for (const { bounds } of areas) {
    if (bounds)
      index.add(bounds.col, bounds.row, bounds.col + bounds.width - 1, bounds.row + bounds.height - 1)
    else index.add(-FAR, -FAR, FAR, FAR)
  }
  index.finish()
  return index
}
