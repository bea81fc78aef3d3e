/**
 * The evaluator: the plate's frame in, the mended frame out.
 *
 * The one implementation behind the browser's preview, the server's render and the command line. Each
 * gives it a source of its own; the arithmetic and therefore the bytes are the same everywhere.
 */
import { createPathCurve, type PathCurve } from '../geometry/pathCurve'
import { findFill } from '../fill/registry'
import type { RunContext } from '../fill/method'
import { grainAt, measureGrain, seedFromText } from '../finish/grain'
import type { Raster } from '../image/raster'
import { growRect, intersectRects, rectAround, uniteRects, wholePicture, type Rect } from '../image/rect'
import { cropSamples, floatsFromSamplesInto, maximumOf, sampleFromFloat, type BitDepth, type Samples } from '../image/samples'
import { withKernelMemory } from '../kernels/memory'
import { measureLineResidue, type LineResidue } from '../measure/lineResidue'
import { coverageFromEdges, outerPxOf, reachPxOf, rimPxOf, type Edge, type EdgeField } from '../matte/edge'
import { measurePathField, type PathField } from '../matte/pathField'
import { renderPathCoverage } from '../matte/pathMatte'
import { measurePictureField, type ReadMatte } from '../matte/pictureMatte'
import { measurePolygonField } from '../matte/polygonMatte'
import type { Frame } from '../time'
import type { PlacedMend, PlacedShape } from './place'

export interface PlateShape {
  readonly width: number
  readonly height: number
  readonly channels: number
  readonly bitDepth: BitDepth
}

/** Where the evaluator gets its pixels from. */
export interface FrameSource {
  readonly plate: PlateShape
  /** The plate's own samples of a rectangle inside the picture. */
  readRect(frame: Frame, rect: Rect): Promise<Samples>
  /** A picture of a matte sequence, cut to what it covers; null where it covers nothing or has no such frame. */
  readMatte(pattern: string, frame: Frame): Promise<ReadMatte | null>
}

/** Samples to lay over the plate; those that no mend covers are the plate's own. */
export interface Patch {
  readonly rect: Rect
  readonly samples: Samples
}

/** What a mend could not do on this frame. The other mends still stand. */
export interface MendNote {
  readonly mendId: string
  readonly reason: 'outside-picture' | 'nothing-known' | 'stopped' | 'unknown-fill' | 'needs-path'
  readonly detail: string
}

/** What the finished pixels of a mend's area tell. */
export interface MendMeasure {
  readonly mendId: string
  /** Of a path: whether the line still shows. */
  readonly line: LineResidue | null
}

export interface EvaluatedFrame {
  readonly patches: readonly Patch[]
  readonly measures: readonly MendMeasure[]
  readonly notes: readonly MendNote[]
}

const GRAIN_RING_PX = 12 // plate around the area in which its grain is measured

/** A shape with what was read for it. */
type ReadShape = Exclude<PlacedShape, { shape: 'matte' }> | { readonly shape: 'matte'; readonly matte: ReadMatte }

/** One covered area on one frame: what is filled at a time. */
interface Placement {
  readonly mend: PlacedMend
  readonly cover: ReadShape
  readonly curve: PathCurve | null
  readonly holdouts: readonly ReadShape[]
  /** Pixels it may change. */
  readonly writeRect: Rect
  /** Pixels it looks at. */
  readonly readRect: Rect
}

/**
 * Mends one frame.
 *
 * Mends are applied in order, each to the result of those before it, in floats; the result is rounded
 * once. Samples without coverage keep every bit.
 *
 * Cost and memory follow the rectangles of the areas, not the picture or the clip.
 */
export async function evaluateFrame(mends: readonly PlacedMend[], frame: Frame, source: FrameSource, context: RunContext): Promise<EvaluatedFrame> {
  const notes: MendNote[] = []
  const placements: Placement[] = []
  for (const mend of mends) {
    const holdouts = await readShapes(mend.holdouts, frame, source)
    for (const cover of await readShapes(mend.covers, frame, source)) {
      const placement = placeCover(mend, cover, holdouts, source.plate, notes)
      if (placement) placements.push(placement)
    }
  }
  const patches: Patch[] = []
  const measures: MendMeasure[] = []
  for (const group of groupOverlapping(placements)) {
    const readRect = group.map((placement) => placement.readRect).reduce(uniteRects)
    const samples = await source.readRect(frame, readRect)
    if (context.shouldStop()) break
    patches.push(mendGroup(group, frame, readRect, samples, source.plate, context, notes, measures))
  }
  return { patches, measures, notes }
}

async function readShapes(shapes: readonly PlacedShape[], frame: Frame, source: FrameSource): Promise<ReadShape[]> {
  const read: ReadShape[] = []
  for (const shape of shapes) {
    if (shape.shape !== 'matte') {
      read.push(shape)
      continue
    }
    const matte = await source.readMatte(shape.pattern, frame)
    if (matte) read.push({ shape: 'matte', matte })
  }
  return read
}

function placeCover(mend: PlacedMend, cover: ReadShape, holdouts: readonly ReadShape[], plate: PlateShape, notes: MendNote[]): Placement | null {
  const method = findFill(mend.fill.methodId)
  if (!method) {
    notes.push({ mendId: mend.id, reason: 'unknown-fill', detail: `There is no fill "${mend.fill.methodId}".` })
    return null
  }
  if (method.needsPath && cover.shape !== 'path') {
    notes.push({
      mendId: mend.id,
      reason: 'needs-path',
      detail: `${method.title} works along a path. Choose another fill for this area, or draw a path.`,
    })
    return null
  }
  const curve = cover.shape === 'path' ? createPathCurve(cover.points) : null
  const halfWidthPx = curve ? Math.max(...curve.widths) / 2 : 0
  const outerPx = Math.max(0, halfWidthPx + outerPxOf(mend.finish))
  const whole = wholePicture(plate)
  const writeRect = intersectRects(growRect(boundsOf(cover, curve), Math.ceil(outerPx) + 1), whole)
  if (!writeRect) {
    notes.push({ mendId: mend.id, reason: 'outside-picture', detail: 'The area lies outside the picture.' })
    return null
  }
  const { marginPx } = method.reach(method.params.parse(mend.fill.params), curve ? outerPx : 0)
  const readRect = intersectRects(growRect(writeRect, Math.max(marginPx, GRAIN_RING_PX + 3)), whole)!
  return { mend, cover, curve, holdouts, writeRect, readRect }
}

function boundsOf(cover: ReadShape, curve: PathCurve | null): Rect {
  if (curve) return boxAround(curve.xs, curve.ys)
  if (cover.shape === 'matte') return cover.matte.rect
  const { polygon } = cover as Extract<ReadShape, { shape: 'closed' }>
  return boxAround(
    polygon.filter((_, i) => i % 2 === 0),
    polygon.filter((_, i) => i % 2 === 1),
  )
}

function boxAround(xs: ArrayLike<number>, ys: ArrayLike<number>): Rect {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
  for (let i = 0; i < xs.length; i++) {
    left = Math.min(left, xs[i]!)
    right = Math.max(right, xs[i]!)
    top = Math.min(top, ys[i]!)
    bottom = Math.max(bottom, ys[i]!)
  }
  return rectAround(left, top, right, bottom)
}

/** Mends that look at each other's pixels share a rectangle; the order within a group is the stack's. */
function groupOverlapping(placements: readonly Placement[]): Placement[][] {
  let groups: { rect: Rect; members: Placement[] }[] = []
  for (const placement of placements) {
    let rect = placement.readRect
    const members = [placement]
    let hasGrown = true
    while (hasGrown) {
      hasGrown = false
      const apart: typeof groups = []
      for (const group of groups) {
        if (!intersectRects(group.rect, rect)) {
          apart.push(group)
          continue
        }
        rect = uniteRects(group.rect, rect)
        members.push(...group.members)
        hasGrown = true
      }
      groups = apart
    }
    groups.push({ rect, members })
  }
  return groups.map(({ members }) => members.sort((a, b) => placements.indexOf(a) - placements.indexOf(b)))
}

function mendGroup(
  group: readonly Placement[],
  frame: Frame,
  readRect: Rect,
  samples: Samples,
  plate: PlateShape,
  context: RunContext,
  notes: MendNote[],
  measures: MendMeasure[],
): Patch {
  const { width, height } = readRect
  const bytes = samples.data.length * 4
  // The picture, the samples on their way in, and what a fill takes for its positions and readings.
  return withKernelMemory(bytes * 6 + 16 * 1024 * 1024, (scope) => {
    const picture: Raster = { width, height, channels: plate.channels, data: scope.take(samples.data.length) }
    floatsFromSamplesInto(picture.data, samples.data, scope)
    const isTouched = new Uint8Array(width * height)
    for (const placement of group) {
      if (context.shouldStop()) break
      applyMend(placement, frame, readRect, picture, plate, isTouched, context, notes)
    }
    for (const { mend, curve } of group) {
      if (curve) measures.push({ mendId: mend.id, line: measureLineResidue(picture, readRect, plate, curve, outerPxOf(mend.finish)) })
    }
    const writeRect = group.map((placement) => placement.writeRect).reduce(uniteRects)
    return { rect: writeRect, samples: roundTouched(samples, picture, isTouched, readRect, writeRect) }
  })
}

function applyMend(
  { mend, cover, curve, holdouts }: Placement,
  frame: Frame,
  rect: Rect,
  picture: Raster,
  plate: PlateShape,
  isTouched: Uint8Array,
  context: RunContext,
  notes: MendNote[],
): void {
  const method = findFill(mend.fill.methodId)!
  const outerPx = outerPxOf(mend.finish)
  const { field, coverage, path } = coverShape(cover, curve, rect, Math.max(outerPx + GRAIN_RING_PX, reachPxOf(mend.finish)), mend.finish)
  for (const holdout of holdouts) subtractHoldout(coverage, field, holdout, rect)
  const result = method.run(
    { picture, rect, pictureSize: plate, field, coverage, path, rimPx: rimPxOf(mend.finish), outerPx },
    method.params.parse(mend.fill.params),
    context,
  )
  if (!result.ok) {
    notes.push({ mendId: mend.id, reason: result.reason, detail: result.detail })
    return
  }
  const grainLevels = mend.finish.grain > 0 ? measureGrain(picture, field, outerPx) : new Float32Array(plate.channels)
  blendInto(picture, result.values, field, coverage, mend, { kept: result.grainKept, levels: grainLevels, frame, rect }, isTouched)
}

interface CoveredShape {
  readonly field: EdgeField
  readonly coverage: Float32Array
  readonly path: { readonly curve: PathCurve; readonly field: PathField } | null
}

/** The pixels of a shape and how far each is covered. */
function coverShape(shape: ReadShape, curve: PathCurve | null, rect: Rect, marginPx: number, edge: Edge): CoveredShape {
  if (shape.shape === 'path') {
    const line = curve ?? createPathCurve(shape.points)
    const field = measurePathField(line, rect, marginPx)
    return { field, coverage: renderPathCoverage(field, edge), path: { curve: line, field } }
  }
  if (shape.shape === 'closed') {
    const field = measurePolygonField(shape.polygon, rect, marginPx)
    return { field, coverage: coverageFromEdges(field, edge), path: null }
  }
  const field = measurePictureField(shape.matte, rect, marginPx)
  const coverage = coverageFromEdges(field, edge)
  // Its own soft edge stays, unless it is narrowed.
  for (let i = 0; i < field.count; i++)
    coverage[i] = edge.growPx < 0 ? Math.min(coverage[i]!, field.given[i]!) : Math.max(coverage[i]!, field.given[i]!)
  return { field, coverage, path: null }
}

const HARD: Edge = { featherOutPx: 0, featherInPx: 0, growPx: 0 }

/** What passes in front stays: its pixels are taken out of the coverage, as drawn. */
function subtractHoldout(coverage: Float32Array, field: EdgeField, holdout: ReadShape, rect: Rect): void {
  const held = coverShape(holdout, null, rect, 1, HARD)
  const heldAt = new Map<number, number>()
  for (let i = 0; i < held.field.count; i++) if (held.coverage[i]! > 0) heldAt.set(held.field.pixels[i]!, held.coverage[i]!)
  if (heldAt.size === 0) return
  for (let i = 0; i < field.count; i++) {
    const kept = heldAt.get(field.pixels[i]!)
    if (kept !== undefined) coverage[i] = coverage[i]! * (1 - kept)
  }
}

interface GrainPlan {
  readonly kept: Float32Array
  readonly levels: Float32Array
  readonly frame: Frame
  readonly rect: Rect
}

function blendInto(
  picture: Raster,
  values: Float32Array,
  field: EdgeField,
  coverage: Float32Array,
  mend: PlacedMend,
  grain: GrainPlan,
  isTouched: Uint8Array,
): void {
  const { channels, width, data } = picture
  const seed = seedFromText(mend.id)
  const { strength, grain: amount } = mend.finish
  for (let i = 0; i < field.count; i++) {
    const share = coverage[i]! * strength
    if (share === 0) continue
    const pixel = field.pixels[i]!
    const col = grain.rect.col + (pixel % width)
    const row = grain.rect.row + Math.floor(pixel / width)
    const missing = amount * Math.sqrt(Math.max(0, 1 - grain.kept[i]!))
    for (let channel = 0; channel < channels; channel++) {
      const at = pixel * channels + channel
      const level = grain.levels[channel]! * missing
      const value = values[i * channels + channel]! + (level > 0 ? level * grainAt(seed, grain.frame, col, row, channel) : 0)
      data[at] = data[at]! + share * (value - data[at]!)
    }
    isTouched[pixel] = 1
  }
}

/** Back to samples: rounded where a mend has been, the plate's own bits everywhere else. */
function roundTouched(samples: Samples, picture: Raster, isTouched: Uint8Array, readRect: Rect, writeRect: Rect): Samples {
  const { channels } = samples
  const maximum = maximumOf(samples.data)
  const offset = { col: writeRect.col - readRect.col, row: writeRect.row - readRect.row, width: writeRect.width, height: writeRect.height }
  const out = cropSamples(samples, offset)
  let to = 0
  for (let row = 0; row < offset.height; row++) {
    let pixel = (offset.row + row) * readRect.width + offset.col
    for (let col = 0; col < offset.width; col++, pixel++, to += channels) {
      if (isTouched[pixel] === 0) continue
      for (let channel = 0; channel < channels; channel++) {
        out.data[to + channel] = sampleFromFloat(picture.data[pixel * channels + channel]!, maximum)
      }
    }
  }
  return out
}
