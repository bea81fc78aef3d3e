/**
 * The evaluator: the plate's frame in, the mended frame out.
 *
 * The one implementation behind the browser's preview, the server's render and the command line. Each
 * gives it a source of its own; the arithmetic and therefore the bytes are the same everywhere.
 */
import type { GatherReport, RunContext } from '../fill/method'
import { intersectRects, uniteRects, type Rect } from '../image/rect'
import { cropSamples, createSamples, maximumOf, sampleFromFloat, type Samples } from '../image/samples'
import { applyMend, type Applied, type Canvas } from './applyMend'
import type { EvaluatedFrame, FrameSource, MendNote, Patch, SeenMap } from '../shot/clip'
import { floatsOf, gatherLooks, type Looked } from './readFrames'
import { measureApplied } from './measureApplied'
import { placeAll, type Placement } from './placement'
import type { FramePlan } from '../plan/planFrame'

/**
 * Mends one frame.
 *
 * Mends are applied in order, each to the result of those before it, in floats; the result is rounded
 * once. Samples without coverage keep every bit.
 *
 * Cost and memory follow the rectangles of the areas, not the picture or the clip.
 */
export async function evaluateFrame(
  plan: FramePlan,
  source: FrameSource,
  context: RunContext,
): Promise<EvaluatedFrame> {
  const notes: MendNote[] = []
  const placements = await placeAll(plan, source, notes)
  const patches: Patch[] = []
  const seenMaps: SeenMap[] = []
  const measures: EvaluatedFrame['measures'][number][] = []
  for (const group of groupOverlapping(placements)) {
    const looked: Looked[] = []
    for (const placement of group) looked.push(await gatherLooks(placement, plan.frame, source, context))
    const rect = group.map((placement) => placement.readRect).reduce(uniteRects)
    const samples = await source.readRect(plan.frame, rect)
    if (context.shouldStop()) break
    const canvas: Canvas = {
      rect,
      picture: floatsOf(samples),
      isTouched: new Uint8Array(rect.width * rect.height),
      alpha: null,
    }
    const applied: Applied[] = []
    for (const [i, placement] of group.entries()) {
      if (context.shouldStop()) break
      const done = await applyMend(placement, looked[i]!, plan.frame, canvas, source.plate, context, notes)
      if (done) applied.push(done)
    }
    if (context.shouldStop()) break
    for (const one of applied) {
      measures.push(measureApplied(one, canvas, source.plate))
      if (one.gathered) seenMaps.push(seenMapOf(one, one.gathered))
    }
    const writeRect = group.map((placement) => placement.writeRect).reduce(uniteRects)
    patches.push(roundTouched(samples, canvas, writeRect))
  }
  return { patches, measures, notes, seenMaps }
}

function seenMapOf({ placement, input }: Applied, { seen, from }: GatherReport): SeenMap {
  const { writeRect, mend } = placement
  const { field, rect } = input
  const size = writeRect.width * writeRect.height
  const map = {
    mendId: mend.id,
    rect: writeRect,
    seen: new Int16Array(size).fill(-1),
    from: new Int32Array(size).fill(-1),
  }
  for (let i = 0; i < field.count; i++) {
    if (seen[i]! < 0) continue
    const col = (field.pixels[i]! % rect.width) + rect.col - writeRect.col
    const row = ((field.pixels[i]! / rect.width) | 0) + rect.row - writeRect.row
    if (col < 0 || row < 0 || col >= writeRect.width || row >= writeRect.height) continue
    map.seen[row * writeRect.width + col] = seen[i]!
    map.from[row * writeRect.width + col] = from[i]!
  }
  return map
}

/** Mends that look at each other's pixels share a rectangle; the order within a group is the stack's. */
export function groupOverlapping(placements: readonly Placement[]): Placement[][] {
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

/** Back to samples: rounded where a mend has been, the plate's own bits everywhere else. */
function roundTouched(
  samples: Samples,
  { picture, isTouched, alpha, rect: readRect }: Canvas,
  writeRect: Rect,
): Patch {
  const { channels } = samples
  const maximum = maximumOf(samples.data)
  const offset = {
    col: writeRect.col - readRect.col,
    row: writeRect.row - readRect.row,
    width: writeRect.width,
    height: writeRect.height,
  }
  const out = cropSamples(samples, offset)
  const cut = alpha && createSamples(offset.width, offset.height, 1, maximum === 255 ? 8 : 16)
  let to = 0
  for (let row = 0; row < offset.height; row++) {
    let pixel = (offset.row + row) * readRect.width + offset.col
    for (let col = 0; col < offset.width; col++, pixel++, to += channels) {
      if (cut) cut.data[row * offset.width + col] = sampleFromFloat(alpha[pixel]!, maximum)
      if (isTouched[pixel] === 0) continue
      for (let channel = 0; channel < channels; channel++) {
        out.data[to + channel] = sampleFromFloat(picture.data[pixel * channels + channel]!, maximum)
      }
    }
  }
  return { rect: writeRect, samples: out, alpha: cut }
}
