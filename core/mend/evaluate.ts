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
import { measurePathField, type PathField } from '../matte/pathField'
import { outerPxOf, renderPathCoverage, rimPxOf } from '../matte/pathMatte'
import type { Frame } from '../time'
import { pathPointsAt } from './keys'
import type { Mend } from './schema'

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
}

/** Samples to lay over the plate; those that no mend covers are the plate's own. */
export interface Patch {
  readonly rect: Rect
  readonly samples: Samples
}

/** What a mend could not do on this frame. The other mends still stand. */
export interface MendNote {
  readonly mendId: string
  readonly reason: 'outside-picture' | 'nothing-known' | 'stopped' | 'unknown-fill'
  readonly detail: string
}

export interface EvaluatedFrame {
  readonly patches: readonly Patch[]
  readonly notes: readonly MendNote[]
}

const GRAIN_RING_PX = 12 // plate around the area in which its grain is measured

/** A mend's place on one frame. */
interface Placement {
  readonly mend: Mend
  readonly curve: PathCurve
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
 * Cost and memory follow the rectangles of the mends, not the picture or the clip.
 */
export async function evaluateFrame(mends: readonly Mend[], frame: Frame, source: FrameSource, context: RunContext): Promise<EvaluatedFrame> {
  const notes: MendNote[] = []
  const placements: Placement[] = []
  for (const mend of mends) {
    if (!isActiveAt(mend, frame)) continue
    const placement = placeMend(mend, frame, source.plate, notes)
    if (placement) placements.push(placement)
  }
  const patches: Patch[] = []
  for (const group of groupOverlapping(placements)) {
    const readRect = group.map((placement) => placement.readRect).reduce(uniteRects)
    const samples = await source.readRect(frame, readRect)
    if (context.shouldStop()) break
    patches.push(mendGroup(group, frame, readRect, samples, source.plate, context, notes))
  }
  return { patches, notes }
}

/** Whether a mend changes anything on a frame. */
export const isActiveAt = (mend: Mend, frame: Frame): boolean =>
  mend.isOn && mend.finish.strength > 0 && frame >= mend.span.firstFrame && frame <= mend.span.lastFrame

function placeMend(mend: Mend, frame: Frame, plate: PlateShape, notes: MendNote[]): Placement | null {
  const method = findFill(mend.fill.methodId)
  if (!method) {
    notes.push({ mendId: mend.id, reason: 'unknown-fill', detail: `There is no fill "${mend.fill.methodId}".` })
    return null
  }
  const curve = createPathCurve(pathPointsAt(mend.area, frame))
  const halfWidthPx = Math.max(...curve.widths) / 2
  const halfPx = halfWidthPx + outerPxOf(mend.finish)
  const bounds = rectAround(Math.min(...curve.xs), Math.min(...curve.ys), Math.max(...curve.xs), Math.max(...curve.ys))
  const whole = wholePicture(plate)
  const writeRect = intersectRects(growRect(bounds, Math.ceil(Math.max(halfPx, 0)) + 1), whole)
  if (!writeRect) {
    notes.push({ mendId: mend.id, reason: 'outside-picture', detail: `${mend.name} lies outside the picture.` })
    return null
  }
  const { marginPx } = method.reach(method.params.parse(mend.fill.params), Math.max(halfPx, 0))
  const readRect = intersectRects(growRect(writeRect, Math.max(marginPx, GRAIN_RING_PX + 3)), whole)!
  return { mend, curve, writeRect, readRect }
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
    const writeRect = group.map((placement) => placement.writeRect).reduce(uniteRects)
    return { rect: writeRect, samples: roundTouched(samples, picture, isTouched, readRect, writeRect) }
  })
}

function applyMend(
  { mend, curve }: Placement,
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
  const field = measurePathField(curve, rect, outerPx + GRAIN_RING_PX)
  const coverage = renderPathCoverage(field, mend.finish)
  const result = method.run(
    { picture, rect, pictureSize: plate, curve, field, coverage, rimPx: rimPxOf(mend.finish), outerPx },
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

interface GrainPlan {
  readonly kept: Float32Array
  readonly levels: Float32Array
  readonly frame: Frame
  readonly rect: Rect
}

function blendInto(
  picture: Raster,
  values: Float32Array,
  field: PathField,
  coverage: Float32Array,
  mend: Mend,
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
