/** One pass over all frames: what is foreground on each, and where the outline fits that. */
import { boundsOfPolygon } from '../../geometry/polygon'
import type { Matrix3 } from '../../geometry/transform'
import type { Raster } from '../../image/raster'
import { growRect, intersectRects, rectAround, wholePicture, type Rect } from '../../image/rect'
import { boxSums } from '../../image/windows'
import type { Frame } from '../../time'
import { candidatesOf, type Candidate } from './candidates'
import { reachPxOf, type ExpectedOutline } from './expectedOutline'
import { foregroundOf, type BackgroundFrame } from './foreground'
import { ForegroundTemplate } from './foregroundTemplate'
import { maskOfRuns, runsOf } from './outlineRuns'
import { smoothestPath } from './smoothestPath'

/** What is this much foreground under the outline is the thing; around it some cells are masked too. */
const MASKED_FROM = 0.25
const MASKED_CELLS = 2

/** A frame that shows the background where it is not masked. */
export interface MaskedFrame {
  readonly outline: ExpectedOutline
  readonly cells: Raster
  readonly masked: Uint8Array
}

export interface PassInput {
  /** One for each frame, in order. */
  readonly outlines: readonly ExpectedOutline[]
  readonly background: readonly MaskedFrame[]
  /** How the background goes from one frame to another, px. */
  motionBetween(from: Frame, to: Frame): Matrix3
  readonly cellPx: number
  readonly pictureWidth: number
}

/** Where an outline lies nobody knows. */
const UNKNOWN: readonly Candidate[] = [{ dx: 0, dy: 0, score: 0 }]

interface DrawnTemplate {
  readonly outline: ExpectedOutline
  readonly template: ForegroundTemplate
}

export class ForegroundPass {
  readonly #input: PassInput
  readonly #templates: DrawnTemplate[] = []
  readonly #candidates = new Map<ExpectedOutline, readonly Candidate[]>()
  /** What is foreground on the frames that show the background, 1 for each such cell: the only ones that are kept. */
  readonly #foregrounds = new Map<ExpectedOutline, Uint8Array>()
  #path: readonly Candidate[] | null = null

  constructor(input: PassInput) {
    this.#input = input
  }

  /** Takes the next frame: those on which the outline was drawn come first, as they tell what is looked for. */
  add(outline: ExpectedOutline, cells: Raster): void {
    const { outlines, cellPx, pictureWidth } = this.#input
    const reach = Math.ceil(reachPxOf(outlines, outline, pictureWidth) / cellPx)
    const part = partOf(outline, reach, cellPx, cells)
    if (!part) return
    const foreground = foregroundOf(cells, part, cellPx, this.#backgroundOf(outline))
    const [x, y] = [outline.x / cellPx, outline.y / cellPx]
    if (outline.isDrawn) {
      const template = new ForegroundTemplate(foreground, part, runsOf(outline.polygon, cellPx), [x, y])
      if (template.isDistinct) this.#templates.push({ outline, template })
    }
    if (this.#input.background.some((one) => one.outline === outline))
      this.#foregrounds.set(outline, spread(foreground.data, part, cells))
    const template = this.#templateFor(outline)
    if (!template) return
    const [col, row] = [Math.floor(x), Math.floor(y)]
    const scoreAt = (dx: number, dy: number) => template.scoreAt(foreground, part, col + dx, row + dy)
    // Where in its cell the outline was drawn is not where in its cell it is expected here.
    const [offX, offY] =
      reach === 0 ? [0, 0] : [template.fractionX - (x - col), template.fractionY - (y - row)]
    const candidates = candidatesOf(scoreAt, reach)
    this.#candidates.set(
      outline,
      candidates.map(({ dx, dy, score }) => ({ dx: dx + offX, dy: dy + offY, score })),
    )
  }

  /** Whether anything tells the thing from the background where it was drawn. */
  get isDistinct(): boolean {
    return this.#templates.length > 0
  }

  /** Of each frame how far the outline lies from where it is expected, cells, and how well it fits there. */
  get path(): readonly Candidate[] {
    if (!this.#path) {
      const frames = this.#input.outlines.map((outline) => this.#candidates.get(outline) ?? UNKNOWN)
      this.#path = smoothestPath(frames).map((choice, i) => frames[i]![choice]!)
    }
    return this.#path
  }

  /** 1 for each cell of a frame where the thing hides the background: its foreground under the outline, and a little around that. */
  maskOn({ outline, cells }: MaskedFrame): Uint8Array {
    const { dx, dy } = this.path[this.#input.outlines.indexOf(outline)]!
    const runs = runsOf(outline.polygon, this.#input.cellPx)
    const under = maskOfRuns(runs, cells, Math.round(dx), Math.round(dy))
    const thing = Float32Array.from(this.#foregrounds.get(outline)!, (one, i) => one & under[i]!)
    return Uint8Array.from(boxSums(thing, cells.width, cells.height, MASKED_CELLS), (sum) =>
      sum > 0.5 ? 1 : 0,
    )
  }

  #backgroundOf(outline: ExpectedOutline): BackgroundFrame[] {
    const others = this.#input.background.filter((one) => one.outline !== outline)
    return others.map(({ outline: { frame }, cells, masked }) => ({
      cells,
      masked,
      motion: this.#input.motionBetween(outline.frame, frame),
    }))
  }

  /** That of the drawn outline before or after a frame whose size is more like the one expected: where one is cut off by the border, the other. */
  #templateFor(outline: ExpectedOutline): ForegroundTemplate | null {
    const size = sizeOf(outline)
    const unlike = (one: DrawnTemplate) => Math.max(sizeOf(one.outline) / size, size / sizeOf(one.outline))
    const sorted = this.#templates.toSorted((a, b) => a.outline.frame - b.outline.frame)
    const before = sorted.findLast((one) => one.outline.frame <= outline.frame)
    const after = sorted.find((one) => one.outline.frame > outline.frame)
    if (!before || !after) return (before ?? after)?.template ?? null
    return unlike(before) <= unlike(after) ? before.template : after.template
  }
}

function sizeOf({ polygon }: ExpectedOutline): number {
  const { left, top, right, bottom } = boundsOfPolygon(polygon)
  return Math.max(1, (right - left) * (bottom - top))
}

/** The cells under an outline wherever it may lie. */
function partOf({ polygon }: ExpectedOutline, reach: number, cellPx: number, cells: Raster): Rect | null {
  const { left, top, right, bottom } = boundsOfPolygon(polygon)
  const drawn = rectAround(left / cellPx, top / cellPx, right / cellPx, bottom / cellPx)
  return intersectRects(growRect(drawn, reach + 1), wholePicture(cells))
}

/** 1 for each cell of a frame that is foreground, of the part that was looked at. */
function spread(foreground: Float32Array, part: Rect, { width, height }: Raster): Uint8Array {
  const out = new Uint8Array(width * height)
  for (let row = 0, i = 0; row < part.height; row++) {
    for (let col = 0; col < part.width; col++, i++)
      if (foreground[i]! > MASKED_FROM) out[(row + part.row) * width + col + part.col] = 1
  }
  return out
}
