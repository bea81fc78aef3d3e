/** What a placement wants to know of other frames: read, worked out, and kept for the frames that ask next. */
import { completed, type FillInput, type FillMethod, type OtherCrop, type Prepared } from '../fill/method'
import type { PathPart } from '../fill/method'
import type { PictureBeside } from '../finish/drift'
import { addPair, newPairs, type PairSums } from '../finish/tone'
import type { Rect } from '../image/rect'
import { aroundOf, maskedKey, requestKey } from '../plan/keys'
import type { FramePlan, PlannedRequest } from '../plan/planFrame'
import { layerMapOf } from '../scene/sceneLayers'
import { boxThrough } from '../plan/boxes'
import type { Clip } from '../shot/clip'
import type { RunContext } from '../shot/context'
import { tabooOf } from './coverage'
import { inputOn, maskedOn } from './fillInput'
import { gatherRect, gatherRequests, grainRect, preparedKey } from './otherRects'
import type { Placement } from './placement'
import type { ShapeReader } from './shapeReader'

/** The plate of another frame, and what of it may not be taken: read once for all frames that look at it. */
async function readCrop(
  request: PlannedRequest,
  rect: Rect,
  clip: Clip,
  reader: ShapeReader,
): Promise<OtherCrop> {
  const { frame } = request
  const key = `crop ${frame} ${rect.col} ${rect.row} ${rect.width} ${rect.height} ${maskedKey(request)}`
  const crop = await kept(clip, key, async (): Promise<OtherCrop> => {
    const [samples, shapes] = await Promise.all([clip.readRect(frame, rect), maskedOn(request, [], reader)])
    return { samples, rect, masked: tabooOf(shapes, rect) }
  })
  return crop!
}

/** The plate of the frames that are gathered from, at the places of the area here. Asked for together: they may come from far. */
export async function readGathered(
  placement: Placement,
  { frame: here, scene }: FramePlan,
  clip: Clip,
  reader: ShapeReader,
  context: RunContext,
): Promise<Prepared<OtherCrop>[]> {
  const around = scene && aroundOf(scene, placement)
  const read = await Promise.all(
    gatherRequests(placement, context).map(async (request): Promise<Prepared<OtherCrop> | null> => {
      const rect = gatherRect(placement, request, clip)
      if (!rect) return null
      const { frame, layersFromHere, groundFromHere, areaFromHere } = request
      const isLayered = scene && around && layersFromHere && !request.isOpen && frame !== here
      return {
        frame,
        purpose: 'gather',
        groundFromHere,
        areaFromHere,
        layersFromHere,
        layerMap: isLayered ? layerMapOf(scene, frame, boxThrough(layersFromHere[0]!, around)) : null,
        value: await readCrop(request, rect, clip, reader),
      }
    }),
  )
  return read.filter((one) => one !== null)
}

/** The plate of the frames beside, for measuring grain in time. */
export async function readGrain(
  placement: Placement,
  clip: Clip,
  reader: ShapeReader,
): Promise<PictureBeside[]> {
  const grain: PictureBeside[] = []
  for (const request of placement.requests) {
    if (request.purpose !== 'grain') continue
    const rect = grainRect(placement, request, clip)
    if (!rect) continue
    const { samples } = await readCrop({ ...request, masked: [] }, rect, clip, reader)
    grain.push({ picture: samples, rect, thereFromHere: request.groundFromHere })
  }
  return grain
}

/** What its fill makes of other frames that it looks at for steadiness. @param parts  Of its path, where only these are asked for. */
export async function readPrepared(
  placement: Placement,
  purposes: readonly Prepared['purpose'][],
  parts: readonly PathPart[] | null,
  frame: number,
  clip: Clip,
  reader: ShapeReader,
  context: RunContext,
): Promise<Prepared[]> {
  const { method, params, requests } = placement
  if (!method.steady) return []
  const { besideFrames } = method.steady.wants(params)
  const prepared: Prepared[] = []
  for (const request of requests) {
    const purpose = request.purpose as Prepared['purpose']
    if (!purposes.includes(purpose) || context.shouldStop()) continue
    if (purpose === 'beside' && Math.abs(request.frame - frame) > besideFrames) continue
    const value = await kept(clip, preparedKey(placement, request, parts, context), async () => {
      const input = await inputOn(request, placement, clip, reader)
      return input && (method.steady!.prepare(input, params, context, purpose, parts) as object | null)
    })
    if (!value || context.shouldStop()) continue
    const { groundFromHere, areaFromHere } = request
    prepared.push({ frame: request.frame, purpose, groundFromHere, areaFromHere, value })
  }
  return prepared
}

export interface PairsBeside {
  readonly frame: number
  readonly sums: PairSums
}

/** Pairs of plate and copy around the area on the frames beside. */
export async function readPairs(
  placement: Placement,
  clip: Clip,
  reader: ShapeReader,
  context: RunContext,
): Promise<PairsBeside[]> {
  const { method, params, mend } = placement
  const pairs: PairsBeside[] = []
  if (!method.isCopy || mend.finish.agree === 0) return pairs
  for (const request of placement.requests) {
    if (request.purpose !== 'beside' || context.shouldStop()) continue
    const sums = await kept(clip, `pairs ${requestKey(placement, request)}`, async () => {
      const input = await inputOn(request, placement, clip, reader)
      return input && measurePairs(method, params, input, context)
    })
    if (sums) pairs.push({ frame: request.frame, sums })
  }
  return pairs
}

/** Kept by its key; a result that was stopped half way is not kept. */
async function kept<T extends object>(
  { cache }: Clip,
  key: string,
  work: () => Promise<T | null>,
): Promise<T | null> {
  const known = cache?.get(key)
  if (known !== undefined) return known as T
  const made = await work()
  if (made) cache?.set(key, made)
  return made
}

/** Plate and copy side by side, on the ring around an area. */
export function measurePairs(
  method: FillMethod,
  params: Record<string, unknown>,
  input: FillInput,
  context: RunContext,
): PairSums | null {
  const { field, outerPx, picture, taboo } = input
  const isRing = new Float32Array(field.count)
  let hasRing = false
  for (let i = 0; i < field.count; i++) {
    if (field.edges[i]! <= outerPx || (taboo && taboo[field.pixels[i]!] !== 0)) continue
    isRing[i] = 1
    hasRing = true
  }
  if (!hasRing) return null
  const result = completed(method.run({ ...input, wanted: isRing }, params, context, []))
  if (!result.ok) return null
  const sums = newPairs(picture.channels)
  for (let i = 0; i < field.count; i++) {
    // What had to be made up says nothing.
    if (isRing[i] === 0 || result.grainKept[i] === 0) continue
    for (let c = 0; c < picture.channels; c++) {
      addPair(
        sums,
        c,
        picture.data[field.pixels[i]! * picture.channels + c]!,
        result.values[i * picture.channels + c]!,
      )
    }
  }
  return sums
}
