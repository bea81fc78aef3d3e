/**
 * The evaluator: the plate's frame in, the mended frame out.
 *
 * The one implementation behind the browser's preview, the server's render and the command line. Each gives it a clip of
 * its own; the arithmetic and therefore the bytes are the same everywhere. Mends that see each other's pixels are a group:
 * each is filled from what those before it have made. A group's finished rectangle is kept by the digest of all that made
 * it, so nothing is worked out twice.
 */
import { uniteRects, type Rect } from '../image/rect'
import type { MendMeasure } from '../measure/mendMeasure'
import { finishedKey, joinedKey } from '../plan/keys'
import type { FramePlan } from '../plan/planFrame'
import type { Cache, Clip, FrameRect, Kept, ResultStore } from '../shot/clip'
import type { RunContext } from '../shot/context'
import { readyDigests } from '../shot/digest'
import { MATTE_FULL, type EvaluatedFrame, type MendNote, type SeenMap } from './evaluatedFrame'
import { coveredHere, inputHere } from './fillInput'
import { closeCanvas, layInto, openCanvas, putLaid, roundTouched, type Canvas } from './canvas'
import { finishInto } from './finishFill'
import { measureApplied, type Applied } from './measureApplied'
import { keepLaid, knownMember, membersOf, type Member } from './members'
import { readGrain, readPairs } from './otherFrames'
import { wantedRects } from './otherRects'
import { packResult, unpackResult } from './packedResult'
import { groupOverlapping, placeOne, type Placement } from './placement'
import { askForFill, knownFill, runFill } from './runFill'
import { ShapeReader } from './shapeReader'

/** What all steps share. */
interface Evaluation {
  readonly plan: FramePlan
  readonly clip: Clip
  readonly kept: Kept
  readonly reader: ShapeReader
  readonly context: RunContext
}

/**
 * Mends one frame.
 *
 * Mends are applied in order, each to the result of those before it, in floats; the result is rounded once. Samples
 * without coverage keep every bit. Cost and memory follow the rectangles of the areas, not the picture or the clip.
 */
export async function evaluateFrame(
  plan: FramePlan,
  clip: Clip,
  context: RunContext,
): Promise<EvaluatedFrame> {
  const { evaluation, groups, notes } = await openEvaluation(plan, clip, context)
  const missing = groups.filter(({ known }) => !known).flatMap(({ members }) => members)
  await prefetchMissing(groups, evaluation)
  const results: EvaluatedFrame[] = []
  let done = 0
  for (const { members, name, known } of groups) {
    const tell = (share: number) => context.onProgress?.(done + share, missing.length)
    const result = known ?? (await mendGroup(members, evaluation, tell))
    if (!result) break // stopped
    if (!known) {
      await keepResult(name, result, evaluation)
      done += members.length
    }
    results.push(result)
  }
  return joined(results, notes)
}

/** Has what a frame reads brought from far, before the frame itself is asked for. */
export async function bringFrame(plan: FramePlan, clip: Clip, context: RunContext): Promise<void> {
  const { evaluation, groups } = await openEvaluation(plan, clip, context)
  await prefetchMissing(groups, evaluation)
}

/** The frame as it is stored; null where anything of it was not worked out yet. Nothing is read of the clip. */
export async function storedFrame(plan: FramePlan, clip: Clip): Promise<EvaluatedFrame | null> {
  const { groups, notes } = await openEvaluation(plan, clip, { shouldStop: () => false })
  const known = groups.flatMap((group) => (group.known ? [group.known] : []))
  return known.length === groups.length ? joined(known, notes) : null
}

const joined = (results: readonly EvaluatedFrame[], notes: readonly MendNote[]): EvaluatedFrame => ({
  patches: results.flatMap(({ patches }) => patches),
  measures: results.flatMap(({ measures }) => measures),
  notes: [...notes, ...results.flatMap((result) => result.notes)],
  seenMaps: results.flatMap(({ seenMaps }) => seenMaps),
})

/** Mends that see each other's pixels, and their finished rectangle where it is known. */
interface Group {
  readonly members: readonly Placement[]
  readonly name: string
  readonly known: EvaluatedFrame | null
}

async function openEvaluation(
  plan: FramePlan,
  clip: Clip,
  context: RunContext,
): Promise<{
  readonly evaluation: Evaluation
  readonly groups: readonly Group[]
  readonly notes: readonly MendNote[]
}> {
  await readyDigests()
  const evaluation: Evaluation = { plan, clip, kept: askedOnce(clip), reader: new ShapeReader(clip), context }
  const notes: MendNote[] = []
  const placements: Placement[] = []
  for (const planned of plan.placements) {
    const placement = await placeOne(planned, plan.frame, evaluation.reader, clip.plate, notes)
    if (placement) placements.push(placement)
  }
  const groups = await Promise.all(
    groupOverlapping(placements).map(async (members) => {
      const name = groupName(members, evaluation)
      return { members, name, known: await knownResult(name, evaluation) }
    }),
  )
  return { evaluation, groups, notes }
}

/** What is kept for a clip, with a store that is asked for each result once: ahead of time, so that it is on its way meanwhile. */
function askedOnce({ cache, results }: Kept): Kept {
  if (!results) return { cache }
  const asked = new Map<string, ReturnType<ResultStore['read']>>()
  return {
    cache,
    results: {
      read(key) {
        const reading = asked.get(key) ?? results.read(key)
        asked.set(key, reading)
        return reading
      },
      write: (key, bytes) => results.write(key, bytes),
    },
  }
}

const groupName = (members: readonly Placement[], { plan, context }: Evaluation): string =>
  joinedKey([
    context.isDraft && members.some(({ method }) => method.hasDraft) ? 'draft patch' : 'patch',
    context.isPassing ? 'unmeasured' : 'measured',
    context.tellsCovered ? 'covered' : '',
    ...members.map((placement) => finishedKey(plan, placement)),
  ])

/** Whether a result may be taken from what is known, and kept: nothing that is only looked at is asked for. */
const isKept = ({ context }: Evaluation): boolean => !context.showsSeen

/** What is stored for others as well: it will be asked for again. */
const isStored = ({ context }: Evaluation): boolean => !context.isDraft && !context.isPassing

async function knownResult(name: string, evaluation: Evaluation): Promise<EvaluatedFrame | null> {
  const { cache, results } = evaluation.kept
  if (!isKept(evaluation)) return null
  const known = cache?.get(name) as Uint8Array | undefined
  if (known) return unpackResult(known)
  const stored = results && isStored(evaluation) ? await results.read(name) : null
  if (stored) cache?.set(name, stored)
  return stored && unpackResult(stored)
}

async function keepResult(name: string, result: EvaluatedFrame, evaluation: Evaluation): Promise<void> {
  const { context } = evaluation
  const { cache, results } = evaluation.kept
  if (context.shouldStop() || !isKept(evaluation) || !(cache || results)) return
  const packed = packResult(result)
  cache?.set(name, packed)
  if (results && isStored(evaluation)) await results.write(name, packed)
}

/** Where what single members have left is kept; how far they cover is not. Of one alone that is its group's result. */
const memberCache = (members: readonly Placement[], evaluation: Evaluation): Cache | undefined =>
  isKept(evaluation) && !evaluation.context.tellsCovered && members.length > 1
    ? evaluation.kept.cache
    : undefined

/** Says what will be read, so that what lies far is brought together. */
async function prefetchMissing(groups: readonly Group[], evaluation: Evaluation): Promise<void> {
  const { plan, clip, kept, reader, context } = evaluation
  if (!clip.prefetch) return
  const wanted: FrameRect[] = []
  for (const { members, known } of groups) {
    if (known) continue
    wanted.push({ frame: plan.frame, rect: lookRectOf(members) })
    for (const member of membersOf(members, plan, context)) {
      if (knownMember(member, memberCache(members, evaluation), !context.isPassing)) continue
      const { placement, fillName } = member
      const isFilled = kept.cache?.get(fillName) !== undefined
      if (!isFilled) askForFill(fillName, placement, kept, context)
      wanted.push(...(await wantedRects(placement, plan.frame, clip, reader, context, isFilled)))
    }
  }
  if (wanted.length > 0) clip.prefetch(wanted)
}

const lookRectOf = (members: readonly Placement[]): Rect =>
  members.map(({ lookRect }) => lookRect).reduce(uniteRects)

/** @param tell  Told how many of its placements are done. @returns null when it was stopped. */
async function mendGroup(
  placements: readonly Placement[],
  evaluation: Evaluation,
  tell: (done: number) => void,
): Promise<EvaluatedFrame | null> {
  const { plan, clip, context } = evaluation
  const rect = lookRectOf(placements)
  const canvas = openCanvas(rect, await clip.readRect(plan.frame, rect), context.tellsCovered)
  const notes: MendNote[] = []
  const cache = memberCache(placements, evaluation)
  const laid: {
    readonly member: Member
    readonly measure: MendMeasure | null
    readonly applied: Applied | null
  }[] = []
  for (const [i, member] of membersOf(placements, plan, context).entries()) {
    if (context.shouldStop()) return null
    const known = knownMember(member, cache, !context.isPassing)
    if (known) {
      putLaid(canvas, known.laid)
      laid.push({ member, measure: known.measure, applied: null })
      continue
    }
    const onProgress = (part: number, whole: number) => tell(i + part / whole)
    const applied = await apply(member, canvas, { ...evaluation, context: { ...context, onProgress } }, notes)
    // Stopped on the way, it may have left something out.
    if (context.shouldStop()) return null
    tell(i + 1)
    if (!applied) continue
    keepLaid(member, canvas, cache)
    laid.push({ member, measure: null, applied })
  }
  if (context.shouldStop()) return null
  const measureOf = ({ member, measure, applied }: (typeof laid)[number]): MendMeasure => {
    if (!applied) return measure!
    const measured = measureApplied(applied, canvas, clip.plate)
    cache?.set(member.measureName, measured)
    return measured
  }
  const result = {
    patches: [roundTouched(canvas, placements.map(({ writeRect }) => writeRect).reduce(uniteRects))],
    measures: context.isPassing ? [] : laid.map(measureOf),
    notes,
    seenMaps: context.showsSeen ? laid.flatMap(({ applied }) => (applied ? seenMapsOf(applied) : [])) : [],
  }
  closeCanvas(canvas)
  return result
}

const seenMapsOf = (applied: Applied): readonly SeenMap[] =>
  applied.gathered
    ? [seenMapOf(applied, applied.gathered)]
    : applied.placement.method.hidesNothing
      ? [matteMapOf(applied)]
      : []

/** Fills, finishes and lays one placement. @returns null when nothing was laid: a note says why. */
async function apply(
  { placement, fillName }: Member,
  canvas: Canvas,
  { plan, clip, kept, reader, context }: Evaluation,
  notes: MendNote[],
): Promise<Applied | null> {
  const { mend, share } = placement
  const covered = coveredHere(placement)
  const input = await inputHere(placement, plan, canvas, covered, clip)
  const result =
    (await knownFill(fillName, placement, kept, context)) ??
    (await runFill(fillName, placement, input, plan, clip, kept, reader, context))
  if (!result.ok) {
    notes.push({ mendId: mend.id, reason: result.reason, detail: result.detail })
    return null
  }
  const beside = {
    pairs: await readPairs(placement, clip, reader, context),
    grain: await readGrain(placement, clip, reader),
  }
  finishInto(result, placement, input, beside, clip.plate, context)
  const { values, holes = null, faults = null, gathered = null, needed = null } = result
  const { shade = null, grainless = null } = result
  const coverage = needed ? covered.coverage.map((one, i) => one * needed[i]!) : covered.coverage
  layInto(canvas, values, holes, coverage, input, share)
  return {
    placement,
    input,
    coverage,
    owners: covered.owners,
    faults,
    gathered,
    shade,
    grainless,
    isTidied: needed !== null,
  }
}

/** Where a fill that finds its own place does how much. */
function matteMapOf(applied: Applied): SeenMap {
  const { field } = applied.input
  const seen = Float32Array.from({ length: field.count }, (_, i) =>
    Math.round(MATTE_FULL * applied.coverage[i]!),
  )
  return { ...seenMapOf(applied, { seen, from: new Int32Array(field.count).fill(-1) }), isMatte: true }
}

function seenMapOf(
  { placement, input }: Applied,
  { seen, from }: { readonly seen: ArrayLike<number>; readonly from: ArrayLike<number> },
): SeenMap {
  const { writeRect, mend } = placement
  const { field, rect } = input
  const size = writeRect.width * writeRect.height
  const map = {
    mendId: mend.id,
    rect: writeRect,
    isMatte: false,
    seen: new Int16Array(size).fill(-1),
    from: new Int32Array(size).fill(-1),
  }
  for (let i = 0; i < field.count; i++) {
    if (seen[i]! < 0) continue
    const down = (field.pixels[i]! / rect.width) | 0
    const col = field.pixels[i]! - down * rect.width + rect.col - writeRect.col
    const row = down + rect.row - writeRect.row
    if (col < 0 || row < 0 || col >= writeRect.width || row >= writeRect.height) continue
    map.seen[row * writeRect.width + col] = seen[i]!
    map.from[row * writeRect.width + col] = from[i]!
  }
  return map
}
