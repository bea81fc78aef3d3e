/** What the finished pixels of one mended area tell. */
import { atan2 } from '../kernels/exact'
import { apply } from '../geometry/transform'
import type { Raster } from '../image/raster'
import { intersectRects, rectAround } from '../image/rect'
import {
  bandsOf,
  measureCells,
  measureGrainRatio,
  measureRimStep,
  SECTORS,
  type MeasuredArea,
} from '../measure/areaMeasures'
import { measureLineResidue } from '../measure/lineResidue'
import { measureMarkLeft } from '../measure/markLeft'
import type { MendMeasure } from '../measure/mendMeasure'
import { measureShadeLeft } from '../measure/shadeLeft'
import { measureRepeat } from '../measure/repeats'
import type { FillFaults, FillInput, FoundShade, GatherReport } from '../fill/method'
import { middleOfShape } from '../plan/placedArea'
import type { PlateShape } from '../shot/clip'
import { seenOn, type Canvas } from './canvas'
import type { Placement } from './placement'

/** What was laid over the picture, for measuring it afterwards. */
export interface Applied {
  readonly placement: Placement
  readonly input: FillInput
  readonly coverage: Float32Array
  /** Of a series, which area each entry is nearest to. */
  readonly owners: Uint16Array | null
  readonly faults: FillFaults | null
  readonly gathered: GatherReport | null
  readonly shade: FoundShade | null
  /** For each entry what other frames show there, as far as the fill tells. */
  readonly grainless: Float32Array | null
  /** Only what differs from what was gathered was replaced: the area's own edge is nowhere to be seen. */
  readonly isTidied: boolean
}

export function measureApplied(applied: Applied, canvas: Canvas, plate: PlateShape): MendMeasure {
  const { placement, input, coverage, faults, gathered, isTidied } = applied
  const { mend, curve, readRect, method, share } = placement
  const picture = seenOn(canvas, readRect)
  const { featherInPx, growPx } = mend.finish
  const area: MeasuredArea = {
    picture,
    field: input.field,
    coverage,
    innerPx: Math.min(input.outerPx - 1, growPx - featherInPx),
    outerPx: input.outerPx,
    sectorOf: sectorsOf(applied),
    taboo: input.taboo,
  }
  const bands = bandsOf(area)
  const isHalf = share < 1 || method.keepsThing === true
  return {
    mendId: mend.id,
    ...placeOf(applied),
    line: curve && !isHalf ? measureLineResidue(picture, readRect, plate, curve, input.outerPx) : null,
    // Inside a tidied area lies plate, up to and beyond its edge: there is no step to measure, and no two grains to compare.
    rimStep: isHalf || canvas.alpha || isTidied ? null : measureRimStep(bands),
    grainRatio: mend.finish.grain > 0 && !isHalf && !isTidied ? measureGrainRatio(area) : null,
    // What is only corrected moves and flickers as the plate does.
    cells: method.keepsThing ? null : measureCells(bands),
    faults,
    shade: shadeOf(applied, picture),
    mark: isHalf ? null : markOf(applied, picture),
    // What a painter copies, and from where, was chosen by eye.
    repeated: input.source && !isHalf && !mend.strokeSpan ? repeatOf(applied, canvas) : null,
    gathered: gathered && {
      seenShare: gathered.seenShare,
      unseenWidePx: gathered.unseenWidePx,
      ghostShare: gathered.ghostShare,
      registrationSure: gathered.registrationSure,
      frames: gathered.frames,
      weighed: gathered.weighed,
    },
  }
}

function shadeOf({ input, shade, grainless, placement }: Applied, result: Raster): MendMeasure['shade'] {
  if (!shade) return null
  const isWhole = shade.by !== 'nothing' && placement.share === 1
  const lit = shade.by === 'frames' ? grainless : null
  const left = isWhole
    ? measureShadeLeft(result, input.picture, input.field, input.outerPx, lit, input.taboo)
    : { offStops: null, castStops: null, contrast: null }
  return { ...shade, ...left }
}

function markOf({ input, coverage }: Applied, result: Raster): MendMeasure['mark'] {
  const { mark, field, rect, picture } = input
  if (!mark) return null
  const covered = new Float32Array(rect.width * rect.height)
  for (let i = 0; i < field.count; i++) covered[field.pixels[i]!] = coverage[i]!
  return measureMarkLeft(result, picture, rect, mark, covered)
}

function placeOf({ placement }: Applied): { readonly x: number; readonly y: number } {
  const { shape } = placement.covers[0]!.placed
  if (shape.shape !== 'matte' && placement.covers.length === 1) return middleOfShape(shape)
  const { col, row, width, height } = placement.writeRect
  return { x: col + width / 2, y: row + height / 2 }
}

/** Along a path by its length; round a closed area by the angle from its middle; of a series area by area. */
function sectorsOf({ input, placement, owners }: Applied): (entry: number) => number {
  if (owners) return (entry) => owners[entry]! % SECTORS
  const { path, field, rect } = input
  if (path) {
    const { lengthPx } = path.curve
    const { arcs } = path.field
    return (entry) => sectorAt(arcs[entry]! / lengthPx)
  }
  const { col, row, width, height } = placement.writeRect
  const [x, y] = [col - rect.col + width / 2, row - rect.row + height / 2]
  return (entry) => {
    const pixel = field.pixels[entry]!
    const angle = atan2(((pixel / rect.width) | 0) + 0.5 - y, (pixel % rect.width) + 0.5 - x)
    return sectorAt(angle / (2 * Math.PI) + 0.5)
  }
}

const sectorAt = (share: number): number =>
  share <= 0 ? 0 : share >= 1 ? SECTORS - 1 : (share * SECTORS) | 0

/** How recognisable what was copied is, where both places are in the picture that was read. */
function repeatOf({ placement, input }: Applied, canvas: Canvas): number | null {
  const { source, rect } = input
  const { writeRect } = placement
  if (!source) return null
  const { sourceFromTarget: m } = source
  const a = apply(m, writeRect.col, writeRect.row)
  const b = apply(m, writeRect.col + writeRect.width, writeRect.row + writeRect.height)
  const from = rectAround(Math.min(a.x, b.x), Math.min(a.y, b.y), Math.max(a.x, b.x), Math.max(a.y, b.y))
  const inside = intersectRects(from, rect)
  if (!inside) return null
  const isOwn = new Uint8Array(rect.width * rect.height)
  for (let i = 0; i < input.field.count; i++) if (input.wanted[i]! > 0) isOwn[input.field.pixels[i]!] = 1
  const picture = seenOn(canvas, rect)
  return measureRepeat(
    picture,
    { ...inside, col: inside.col - rect.col, row: inside.row - rect.row },
    (col, row) => {
      const at = row * rect.width + col
      return isOwn[at] === 0 && (!input.taboo || input.taboo[at] === 0)
    },
  )
}
