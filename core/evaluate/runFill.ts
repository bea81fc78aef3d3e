/**
 * Runs the fill of a placement. Its result is kept by the digest of all that made it, so that a change of the finish fills
 * nothing again; what was gathered from other frames, which costs most, goes to the store of results too.
 */
import { isPending, type FillInput, type FillResult } from '../fill/method'
import type { PathPart } from '../fill/method'
import { fillKey, joinedKey } from '../plan/keys'
import type { FramePlan } from '../plan/planFrame'
import type { Clip, Kept } from '../shot/clip'
import type { RunContext } from '../shot/context'
import { readGathered, readPrepared } from './otherFrames'
import { packFill, unpackFill } from './packedFill'
import type { Placement } from './placement'
import type { ShapeReader } from './shapeReader'

/** What the result of a fill is called. @param beneath  What placements before it have put in its surroundings. */
export const fillName = (
  plan: FramePlan,
  placement: Placement,
  beneath: readonly string[],
  { isDraft }: RunContext,
): string =>
  joinedKey([isDraft && placement.method.hasDraft ? 'draft' : 'fill', fillKey(plan, placement), ...beneath])

const isGathered = ({ method }: Placement): boolean => method.steady?.gathers !== undefined

/** Whether what a placement gathers may lie in the store of results. A draft is soon made, and soon replaced. */
const isStored = (placement: Placement, { isDraft }: RunContext): boolean => !isDraft && isGathered(placement)

/** Asks the store for a result that `knownFill` will want: it is on its way meanwhile. */
export function askForFill(name: string, placement: Placement, { results }: Kept, context: RunContext): void {
  if (results && isStored(placement, context)) results.read(name).catch(() => undefined) // said to whoever wants it
}

/** A result that is known already; null where it has to be made. */
export async function knownFill(
  name: string,
  placement: Placement,
  { cache, results }: Kept,
  context: RunContext,
): Promise<FillResult | null> {
  const known = cache?.get(name)
  if (known) return withOwnValues(known as FillResult)
  if (!results || !isStored(placement, context)) return null
  const stored = await results.read(name)
  const unpacked = stored && unpackFill(stored)
  if (!unpacked) return null
  cache?.set(name, unpacked)
  return withOwnValues(unpacked)
}

export async function runFill(
  name: string,
  placement: Placement,
  input: FillInput,
  plan: FramePlan,
  clip: Clip,
  { cache, results }: Kept,
  reader: ShapeReader,
  context: RunContext,
): Promise<FillResult> {
  const { method, params } = placement
  const prepare = (purposes: Parameters<typeof readPrepared>[1], parts: readonly PathPart[] | null = null) =>
    readPrepared(placement, purposes, parts, plan.frame, clip, reader, context)
  const gathers = isGathered(placement)
  const isLate = method.steady?.wants(params).anchor === 'late'
  const prepared = gathers
    ? [
        ...(await readGathered(placement, plan, clip, reader, context)),
        ...(await prepare(isLate ? ['clear'] : ['anchor', 'clear'])),
      ]
    : await prepare(['beside', 'anchor', 'clear'])
  let outcome = method.run(input, params, context, prepared)
  while (isPending(outcome)) outcome = outcome.finish(await prepare([outcome.wants], outcome.parts))
  const result = outcome
  if (!result.ok || context.shouldStop()) return result
  cache?.set(name, result)
  if (results && gathers && !context.isDraft && !context.isPassing && !result.holes && !result.faults)
    await results.write(name, packFill(result))
  return withOwnValues(result)
}

/** What follows works on the values in place. */
const withOwnValues = (result: FillResult): FillResult =>
  result.ok ? { ...result, values: result.values.slice() } : result
