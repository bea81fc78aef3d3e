/**
 * Runs the fill of a placement. What was gathered from other frames is kept by its content, and put on the shelf for others: it costs
 * most and changes least.
 */
import type { FillInput, FillResult, Prepared, RunContext } from '../fill/method'
import { contentKey } from './contentKey'
import { packFill, unpackFill } from './packedFill'
import type { Looked } from './readFrames'
import type { Placement } from './placement'

export async function runFill(
  placement: Placement,
  input: FillInput,
  looked: Looked,
  context: RunContext,
): Promise<FillResult> {
  const { method, params } = placement
  if (!looked.readGathered) return method.run(input, params, context, looked.prepared)
  const { cache, resultStore } = looked
  const key = cache || resultStore ? keyOf(placement, input, context) : ''
  const known = cache?.get(`filled ${key}`)
  // What follows works on the values in place.
  if (known) return withOwnValues(known as FillResult)
  // A first look is soon made, and soon replaced.
  const stored = resultStore && !context.isPreview ? await resultStore.read(key) : null
  const unpacked = stored && unpackFill(stored)
  if (unpacked) {
    cache?.set(`filled ${key}`, unpacked)
    return withOwnValues(unpacked)
  }
  const gathered: readonly Prepared[] = await looked.readGathered()
  const result = method.run(input, params, context, [...gathered, ...looked.prepared])
  if (!result.ok || !(cache || resultStore)) return result
  cache?.set(`filled ${key}`, result)
  if (resultStore && !context.isPreview && !result.holes && !result.faults)
    await resultStore.write(key, packFill(result))
  return withOwnValues(result)
}

const withOwnValues = (result: FillResult): FillResult =>
  result.ok ? { ...result, values: result.values.slice() } : result

/**
 * All that a fill's result hangs on: the plate there is told by the frames, their motions and what is shut on them; the picture here
 * may hold what other mends have made.
 */
function keyOf({ mend, method, looks, cover }: Placement, input: FillInput, context: RunContext): string {
  const { picture, wanted, field, taboo, rect, frame, rimPx, outerPx } = input
  const others = looks.map(({ key, layersFromHere, groundFromHere }) => [
    key,
    layersFromHere ?? groundFromHere,
  ])
  const maps = [cover.layerMap, ...looks.map(({ layerMap }) => layerMap ?? null)]
  return contentKey([
    JSON.stringify([
      method.id,
      method.version,
      mend.id,
      mend.fill,
      frame,
      rect,
      rimPx,
      outerPx,
      context.isPreview === true,
      others,
      cover.shape,
      cover.still,
      maps,
    ]),
    picture.data,
    field.pixels,
    field.edges,
    Float32Array.from(wanted),
    ...(taboo ? [taboo] : []),
    ...(input.holdoutDistances ? [input.holdoutDistances] : []),
  ])
}
