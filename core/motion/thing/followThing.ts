/**
 * Follows a thing by what sets it apart: it differs from the background that other frames show. Outlined on some frames, its outline is
 * moved along on the others so that it catches most of what is strange there; the whole way is solved at once (`wayOf.ts`).
 */
import { boundsOfPolygon } from '../../geometry/polygon'
import type { Matrix3 } from '../../geometry/transform'
import { medianOf } from '../../image/median'
import { growRect, intersectRects, rectAround, wholePicture, type Rect, type Size } from '../../image/rect'
import type { Plane, Raster } from '../../image/raster'
import { boxSums } from '../../image/windows'
import type { RunContext } from '../../shot/context'
import type { Frame } from '../../time'
import type { PictureSource, TrackedFrame } from '../runTrack'
import { between, catchesOf, Likeness, runsOf, type Catch, type OutlineRuns } from './catches'
import { cellMeans } from './cells'
import { strangenessOf, type Witness } from './strangeness'
import { wayOf } from './wayOf'

/** An outline as it would lie on a frame if nothing were known but where it was drawn. */
export interface ExpectedOutline {
  readonly frame: Frame
  /** x, y pairs, px. */
  readonly polygon: readonly number[]
  /** Where its track begins on this frame, px. */
  readonly x: number
  readonly y: number
  readonly isDrawn: boolean
}

export interface ThingRequest {
  /** One for each frame, in order. */
  readonly outlines: readonly ExpectedOutline[]
  /** How the background goes from one frame to another, px. */
  motionBetween(from: Frame, to: Frame): Matrix3
}

/** Frames that tell what the background is. */
const WITNESSES = 15
/** A thing is looked at in about so many cells across. */
const CELLS_ACROSS = 16
const CELL_PX = { min: 1, max: 6 } as const
/** An outline is looked for no further off than this share of the picture's width, between drawn frames and beyond them, and than so much a frame. */
const REACH_SHARE = { between: 0.2, beyond: 0.5 } as const
const FRAME_SHARE = 0.06
/** What is this strange under the outline is the thing; around it some cells are taken for it too. */
const HIDING_FROM = 0.25
const HIDING_CELLS = 2

/** A frame that tells what the background is. */
interface Shown {
  readonly outline: ExpectedOutline
  readonly cells: Raster
}

/** What each frame comes to, and its outline there. */
type Way = readonly Catch[]

/**
 * A place and how sure it is for each frame, the drawn ones as they were drawn. Or why there is none: it was stopped, or wherever it was drawn
 * nothing tells the thing from the background, as it hides the same of it on all frames.
 */
export type FoundThing = readonly TrackedFrame[] | 'stopped' | 'not-told'

export async function followThing(
  request: ThingRequest,
  source: PictureSource,
  context: RunContext,
): Promise<FoundThing> {
  const { outlines } = request
  const cellPx = cellOf(outlines)
  const read = async ({ frame }: ExpectedOutline): Promise<Raster> =>
    cellMeans(await source.readRect(frame, wholePicture(source.plate)), cellPx)
  const chosen = witnessesOf(outlines)
  const total = chosen.length + 2 * outlines.length
  const shown: Shown[] = []
  for (const outline of chosen) {
    if (context.shouldStop()) return 'stopped'
    shown.push({ outline, cells: await read(outline) })
    context.onProgress?.(shown.length, total)
  }
  // Where the thing hides the background is known once it was followed: then all is told better.
  let first: Looked | null = null
  for (const begun of [chosen.length, chosen.length + outlines.length]) {
    const hidden = shown.map(({ outline, cells }) => {
      if (first) return first.hiddenOn(outline, cells)
      // Beyond the frames with drawings nobody knows at first where the thing is: of many frames few show it in the same place.
      return isBetweenDrawn(outlines, outline.frame)
        ? coveredBy(runsOf(outline.polygon, cellPx), cells)
        : new Uint8Array(cells.width * cells.height)
    })
    const looked = new Looked(request, source.plate, cellPx, shown, hidden)
    const drawnFirst = [...outlines].sort((a, b) => Number(b.isDrawn) - Number(a.isDrawn))
    for (const [i, outline] of drawnFirst.entries()) {
      if (context.shouldStop()) return 'stopped'
      if (!outline.isDrawn && !looked.tells) return 'not-told'
      looked.look(outline, shown.find((one) => one.outline === outline)?.cells ?? (await read(outline)))
      context.onProgress?.(begun + i + 1, total)
    }
    if (!looked.tells) return 'not-told'
    if (first) return placesOf(outlines, looked.way(), cellPx)
    first = looked
  }
  return 'stopped'
}

interface Found {
  readonly catches: readonly Catch[]
  /** What was strange, of a part of the frame. */
  readonly seen: { readonly strange: Plane; readonly part: Rect } | null
  refined(one: Catch): Catch
}

const NOWHERE: Found = { catches: [{ dx: 0, dy: 0, share: 0 }], seen: null, refined: (one) => one }

/** One look at all frames: those on which the thing was drawn first, as they tell what it looks like. */
class Looked {
  readonly #request: ThingRequest
  readonly #pictureWidth: number
  readonly #cellPx: number
  readonly #shown: readonly Shown[]
  readonly #hidden: readonly Uint8Array[]
  readonly #found = new Map<ExpectedOutline, Found>()
  #way: Way | null = null
  readonly #drawn: { readonly outline: ExpectedOutline; readonly likeness: Likeness }[] = []

  constructor(
    request: ThingRequest,
    { width }: Size,
    cellPx: number,
    shown: readonly Shown[],
    hidden: readonly Uint8Array[],
  ) {
    this.#request = request
    this.#pictureWidth = width
    this.#cellPx = cellPx
    this.#shown = shown
    this.#hidden = hidden
  }

  look(outline: ExpectedOutline, cells: Raster): void {
    const { outlines } = this.#request
    const cellPx = this.#cellPx
    const reach = outline.isDrawn ? 0 : Math.ceil(reachPx(outlines, outline, this.#pictureWidth) / cellPx)
    const part = partOf(outline, reach, cellPx, cells)
    const strange = part && strangenessOf(cells, part, cellPx, this.#witnesses(outline))
    const [col, row] = [Math.floor(outline.x / cellPx), Math.floor(outline.y / cellPx)]
    if (strange && outline.isDrawn) {
      const likeness = new Likeness(strange, part, runsOf(outline.polygon, cellPx), [
        outline.x / cellPx,
        outline.y / cellPx,
      ])
      if (likeness.isTelling) this.#drawn.push({ outline, likeness })
    }
    const like = this.#likest(outline)
    if (!strange || !like) return void this.#found.set(outline, NOWHERE)
    const shareOf = (dx: number, dy: number) => like.shareAt(strange, part, col + dx, row + dy)
    const refined = (one: Catch): Catch => {
      if (reach === 0) return one
      const { dx, dy, share } = between(shareOf, one)
      // Where in its cell the outline began is not where it is expected here.
      return {
        dx: dx + like.partX - (outline.x / cellPx - col),
        dy: dy + like.partY - (outline.y / cellPx - row),
        share,
      }
    }
    this.#found.set(outline, { catches: catchesOf(shareOf, reach), seen: { strange, part }, refined })
  }

  /** The drawn outline before or after a frame whose size is more like the one expected: where one is cut off by the border, the other. */
  #likest(outline: ExpectedOutline): Likeness | null {
    const size = sizeOf(outline)
    const unlike = (one: ExpectedOutline) => Math.max(sizeOf(one) / size, size / sizeOf(one))
    const before = this.#drawn.filter((one) => one.outline.frame <= outline.frame)
    const after = this.#drawn.filter((one) => one.outline.frame > outline.frame)
    const beside = [
      before.sort((a, b) => b.outline.frame - a.outline.frame)[0],
      after.sort((a, b) => a.outline.frame - b.outline.frame)[0],
    ].filter((one) => one !== undefined)
    return beside.sort((a, b) => unlike(a.outline) - unlike(b.outline))[0]?.likeness ?? null
  }

  #witnesses(outline: ExpectedOutline): Witness[] {
    return this.#shown.flatMap(({ outline: other, cells }, i) => {
      const motion = this.#request.motionBetween(outline.frame, other.frame)
      return other === outline ? [] : [{ cells, hidden: this.#hidden[i]!, motion }]
    })
  }

  /** Whether anything tells the thing from the background. */
  get tells(): boolean {
    return this.#drawn.length > 0
  }

  way(): Way {
    const { outlines } = this.#request
    const found = outlines.map((outline) => this.#found.get(outline) ?? NOWHERE)
    this.#way ??= wayOf(found.map(({ catches }) => catches)).map((choice, i) =>
      found[i]!.refined(found[i]!.catches[choice]!),
    )
    return this.#way
  }

  /** 1 for each cell of a frame where the thing hides the background: what is strange under its outline, and a little around that. */
  hiddenOn(outline: ExpectedOutline, cells: Raster): Uint8Array {
    const seen = this.#found.get(outline)?.seen
    const moved = this.way()[this.#request.outlines.indexOf(outline)]
    const under = coveredBy(runsOf(outline.polygon, this.#cellPx), cells, moved)
    const thing = new Float32Array(under.length)
    for (let row = 0; seen && row < seen.part.height; row++) {
      for (let col = 0; col < seen.part.width; col++) {
        const at = (row + seen.part.row) * cells.width + col + seen.part.col
        if (under[at] === 1 && seen.strange.data[row * seen.part.width + col]! > HIDING_FROM) thing[at] = 1
      }
    }
    return Uint8Array.from(boxSums(thing, cells.width, cells.height, HIDING_CELLS), (sum) =>
      sum > 0.5 ? 1 : 0,
    )
  }
}

function sizeOf({ polygon }: ExpectedOutline): number {
  const { left, top, right, bottom } = boundsOfPolygon(polygon)
  return Math.max(1, (right - left) * (bottom - top))
}

function placesOf(outlines: readonly ExpectedOutline[], way: Way, cellPx: number): TrackedFrame[] {
  return outlines.map(({ frame, x, y, isDrawn }, i) => {
    const { dx, dy, share } = way[i]!
    const sure = isDrawn ? 1 : Math.min(1, Math.max(0, share))
    return { frame, sure, values: [x + dx * cellPx, y + dy * cellPx] }
  })
}

/** 1 for each cell of a frame that an outline covers. */
function coveredBy(outline: OutlineRuns, { width, height }: Raster, moved?: Catch): Uint8Array {
  const covered = new Uint8Array(width * height)
  const [dx, dy] = [Math.round(moved?.dx ?? 0), Math.round(moved?.dy ?? 0)]
  const within = (col: number) => Math.min(width, Math.max(0, col + dx))
  for (let i = 0; i < outline.runs.length; i += 3) {
    const row = outline.runs[i]! + dy
    if (row < 0 || row >= height) continue
    covered.fill(1, row * width + within(outline.runs[i + 1]!), row * width + within(outline.runs[i + 2]!))
  }
  return covered
}

function cellOf(outlines: readonly ExpectedOutline[]): number {
  const sizes = outlines.map(({ polygon }) => {
    const { left, top, right, bottom } = boundsOfPolygon(polygon)
    return Math.min(right - left, bottom - top)
  })
  return Math.min(CELL_PX.max, Math.max(CELL_PX.min, Math.round(medianOf(sizes) / CELLS_ACROSS)))
}

/** The frames on which it was drawn, as there it is known what the thing hides, and others between them, evenly. */
function witnessesOf(outlines: readonly ExpectedOutline[]): ExpectedOutline[] {
  const drawn = outlines.filter(({ isDrawn }) => isDrawn)
  const few = everyFew(drawn, WITNESSES)
  return [
    ...few,
    ...everyFew(
      outlines.filter((one) => !few.includes(one)),
      WITNESSES - few.length,
    ),
  ]
}

function everyFew<T>(all: readonly T[], most: number): T[] {
  if (all.length <= most) return [...all]
  return Array.from(
    { length: most },
    (_, i) => all[Math.round((i * (all.length - 1)) / Math.max(1, most - 1))]!,
  )
}

const isBetweenDrawn = (outlines: readonly ExpectedOutline[], frame: Frame): boolean =>
  outlines.some((one) => one.isDrawn && one.frame <= frame) &&
  outlines.some((one) => one.isDrawn && one.frame >= frame)

function reachPx(
  outlines: readonly ExpectedOutline[],
  { polygon, frame }: ExpectedOutline,
  pictureWidth: number,
): number {
  const { left, top, right, bottom } = boundsOfPolygon(polygon)
  const frames = Math.min(...outlines.flatMap((one) => (one.isDrawn ? [Math.abs(one.frame - frame)] : [])))
  const share = isBetweenDrawn(outlines, frame) ? REACH_SHARE.between : REACH_SHARE.beyond
  const far = FRAME_SHARE * pictureWidth * frames + Math.min(right - left, bottom - top) / 4
  return Math.min(share * pictureWidth, far)
}

/** The cells under an outline wherever it may lie. */
function partOf({ polygon }: ExpectedOutline, reach: number, cellPx: number, cells: Raster): Rect | null {
  const { left, top, right, bottom } = boundsOfPolygon(polygon)
  const drawn = rectAround(left / cellPx, top / cellPx, right / cellPx, bottom / cellPx)
  return intersectRects(growRect(drawn, reach + 1), wholePicture(cells))
}
