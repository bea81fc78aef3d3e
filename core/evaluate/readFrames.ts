/** What a placement wants to know of other frames: read, worked out, and kept for the frames that ask next. */
import type { FillInput, FillMethod, FillStill, Prepared, RunContext, Surroundings } from '../fill/method'
import { growRect, intersectRects, uniteRects, wholePicture, type Rect } from '../image/rect'
import { floatsFromSamplesInto, type Samples } from '../image/samples'
import type { Raster } from '../image/raster'
import { withKernelMemory } from '../kernels/memory'
import { outerPxOf, rimPxOf } from '../matte/edge'
import { addPair, newPairs, type PairSums } from '../finish/tone'
import { MAX_DRIFT_PX, type PictureBeside } from '../finish/drift'
import { seedFromText } from '../finish/grain'
import {
  coverKept,
  coveredBounds,
  tabooOf,
  type CoveredShape,
  type ReadShape,
  type TabooShape,
} from './coverage'
import { NEVER } from '../fill/method'
import type { FrameSource, Cache, ResultStore } from '../shot/clip'
import { rectThrough, type Placement, type ReadLook } from './placement'
import { estimateMotion } from '../geometry/estimate'
import { compose, IDENTITY, type Matrix3 } from '../geometry/transform'

export interface Looked {
  readonly prepared: readonly Prepared[]
  /** Reads the frames that are gathered from; null where the fill gathers from none. Only called when what they gave is not known yet. */
  readonly readGathered: (() => Promise<Prepared[]>) | null
  /** Pairs of plate and copy around the area on the frames beside. */
  readonly pairs: readonly { readonly frame: number; readonly sums: PairSums }[]
  readonly grain: readonly PictureBeside[]
  readonly source: Surroundings | null
  readonly still: FillStill | null
  readonly cache: Cache | undefined
  readonly resultStore: ResultStore | undefined
}

/** The plate at a rectangle of a frame, in floats. */
export async function readRaster(source: FrameSource, frame: number, rect: Rect): Promise<Raster> {
  return floatsOf(await source.readRect(frame, rect))
}

export function floatsOf({ width, height, channels, data }: Samples): Raster {
  const raster: Raster = { width, height, channels, data: new Float32Array(data.length) }
  withKernelMemory(data.length * 6 + 4096, (scope) => floatsFromSamplesInto(raster.data, data, scope))
  return raster
}

/** Everything that a placement needs beside the picture at its own place. */
export async function gatherLooks(
  placement: Placement,
  frame: number,
  source: FrameSource,
  context: RunContext,
): Promise<Looked> {
  const { method, params, looks, sourceRect, mend } = placement
  const prepared: Prepared[] = []
  const pairs: { frame: number; sums: PairSums }[] = []
  const grain: PictureBeside[] = []
  for (const look of looks) {
    if (context.shouldStop()) break
    if (look.purpose === 'gather') continue
    if (look.purpose === 'grain') {
      const rect = rectThrough(
        look.groundFromHere,
        growRect(placement.writeRect, placement.ringPx + MAX_DRIFT_PX + 3),
        wholePicture(source.plate),
      )
      if (rect)
        grain.push({
          picture: await source.readRect(look.frame, rect),
          rect,
          thereFromHere: look.groundFromHere,
        })
      continue
    }
    const { purpose } = look
    const asksFill =
      method.steady &&
      (purpose !== 'beside' || method.steady.wants(params).besideFrames >= Math.abs(look.frame - frame))
    if (asksFill) {
      const version = `${method.id} ${method.version} ${method.hasPreview && context.isPreview ? 'preview' : ''}`
      const value = await kept(source, `${version} ${look.key}`, async () => {
        const input = await inputOn(look, placement, source)
        return input && (method.steady!.prepare(input, params, context, purpose) as object | null)
      })
      if (value && !context.shouldStop())
        prepared.push({
          frame: look.frame,
          purpose,
          groundFromHere: look.groundFromHere,
          areaFromHere: look.areaFromHere,
          value,
        })
    }
    if (purpose === 'beside' && method.isCopy && mend.finish.agree > 0) {
      const sums = await kept(source, `pairs ${look.key}`, async () => {
        const input = await inputOn(look, placement, source)
        return input && measurePairs(method, params, input, context)
      })
      if (sums) pairs.push({ frame: look.frame, sums })
    }
  }
  return {
    prepared,
    pairs,
    grain,
    source:
      sourceRect &&
      (await readSourceAt(frame, sourceRect, placement.otherMends, [placement.shape], placement, source)),
    still: await readStill(placement, source),
    cache: source.cache,
    resultStore: source.resultStore,
    readGathered: placement.method.steady?.gathers ? () => readAllGathered(placement, source, context) : null,
  }
}

/** Asked for together: they may come from far. */
async function readAllGathered(
  placement: Placement,
  source: FrameSource,
  context: RunContext,
): Promise<Prepared[]> {
  const { looks } = placement
  const gathered = looks.filter(
    (look) => look.purpose === 'gather' && !(context.isPreview && !isInPreview(look, looks)),
  )
  const read = await Promise.all(gathered.map((look) => readGathered(look, placement, source)))
  return gathered.flatMap((look, i) =>
    read[i] ? [{ ...look, purpose: 'gather' as const, value: read[i] }] : [],
  )
}

/** A first look is gathered from a few frames, spread over the range. */
const PREVIEW_FRAMES = 6

function isInPreview(look: ReadLook, looks: readonly ReadLook[]): boolean {
  const gathered = looks.filter(({ purpose }) => purpose === 'gather')
  const step = Math.max(1, Math.floor(gathered.length / PREVIEW_FRAMES))
  return gathered.indexOf(look) % step === 0
}

/** The plate of another frame at the places of the area here, through every layer of the scene. */
async function readGathered(
  { frame, layersFromHere = [], otherMends }: ReadLook,
  { writeRect, ringPx }: Placement,
  source: FrameSource,
): Promise<Surroundings | null> {
  const around = growRect(writeRect, ringPx + 3)
  const rects = layersFromHere.flatMap(
    (layer) => rectThrough(layer, around, wholePicture(source.plate)) ?? [],
  )
  if (rects.length === 0) return null
  const rect = rects.reduce(uniteRects)
  const whole = wholePicture(source.plate)
  return {
    picture: await readRaster(source, frame, rect),
    rect,
    taboo: tabooOf(otherMends, rect, { cache: source.cache, whole }),
  }
}

/** Kept by its key; a result that was stopped half way is not kept. */
async function kept<T extends object>(
  source: FrameSource,
  key: string,
  work: () => Promise<T | null>,
): Promise<T | null> {
  const known = source.cache?.get(key)
  if (known !== undefined) return known as T
  const made = await work()
  if (made) source.cache?.set(key, made)
  return made
}

/** A fill's own picture, as far as the area's surroundings lie in it. Null where there is none of that name, or it lies elsewhere. */
async function readStill(
  { readRect, cover: { still } }: Placement,
  source: FrameSource,
): Promise<FillStill | null> {
  if (!still) return null
  const { of, corners, groundToIt } = still
  const whole = wholePicture(source.plate)
  const placed = corners ? pictureFromCorners(corners, whole) : IDENTITY
  if (!placed) return null
  const rests = corners === null && groundToIt === null
  const stillFromTarget = rests ? IDENTITY : compose(placed, groundToIt ?? IDENTITY)
  const rect = rests ? readRect : rectThrough(stillFromTarget, readRect, whole)
  const samples =
    rect && (typeof of === 'string' ? await source.readStill(of, rect) : await source.readRect(of, rect))
  return samples && { picture: floatsOf(samples), rect, taboo: null, stillFromTarget }
}

/** The motion that brings the places of four corners to those of a picture; null where they make no quadrangle. */
function pictureFromCorners(corners: readonly number[], { width, height }: Rect): Matrix3 | null {
  return estimateMotion('perspective', corners, [0, 0, width, 0, width, height, 0, height])
}

/** The plate where an area copies from. Whatever is covered still shows there; the area itself is no source either. */
async function readSourceAt(
  frame: number,
  rect: Rect,
  otherMends: readonly TabooShape[],
  own: readonly ReadShape[],
  { mend }: Placement,
  source: FrameSource,
): Promise<Surroundings> {
  const masked: TabooShape[] = [...otherMends, ...own.map((shape) => ({ shape, edge: mend.finish }))].map(
    (one) => ({ ...one, level: NEVER }),
  )
  return { picture: await readRaster(source, frame, rect), rect, taboo: tabooOf(masked, rect) }
}

/** What the fill of an area would be given on another frame. */
async function inputOn(look: ReadLook, placement: Placement, source: FrameSource): Promise<FillInput | null> {
  const { mend, method, params, ringPx } = placement
  if (look.shapes.length === 0) return null
  const whole = wholePicture(source.plate)
  const writeRect = intersectRects(
    look.shapes.map((shape) => coveredBounds(shape, mend.finish)).reduce(uniteRects),
    whole,
  )
  if (!writeRect) return null
  const { marginPx } = method.reach(params, placement.curve ? placement.outerPx : 0)
  const rect = intersectRects(growRect(writeRect, Math.max(marginPx, ringPx + 3)), whole)!
  const covered = coverKept(source.cache, look.shapes, rect, fieldMarginPx(placement), mend.finish)
  const sourceRect =
    look.sourceFromTarget && rectThrough(look.sourceFromTarget, growRect(writeRect, ringPx), whole)
  const surroundings = {
    picture: await readRaster(source, look.frame, rect),
    rect,
    taboo: tabooOf(look.otherMends, rect),
  }
  const from =
    sourceRect &&
    (await readSourceAt(look.frame, sourceRect, look.otherMends, look.shapes, placement, source))
  return fillInput(placement, look.frame, surroundings, covered, from, look.sourceFromTarget, null, source)
}

/** How far from the drawn edge entries of the field are wanted. */
export const fieldMarginPx = ({ mend, ringPx }: Placement): number =>
  Math.max(outerPxOf(mend.finish) + ringPx, mend.finish.featherInPx - mend.finish.growPx) + 1

export function fillInput(
  { mend, cover }: Placement,
  frame: number,
  surroundings: Surroundings,
  { field, coverage, path }: CoveredShape,
  source: Surroundings | null,
  sourceFromTarget: Matrix3 | null,
  still: FillStill | null,
  { plate }: Pick<FrameSource, 'plate'>,
  holdoutDistances: Float32Array | null = null,
): FillInput {
  return {
    ...surroundings,
    frame,
    seed: seedFromText(mend.id),
    pictureSize: plate,
    field,
    wanted: coverage,
    path,
    holdoutDistances,
    rimPx: rimPxOf(mend.finish),
    outerPx: outerPxOf(mend.finish),
    source: source && sourceFromTarget ? { ...source, sourceFromTarget } : null,
    still,
    layerMap: cover.layerMap,
  }
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
  const result = method.run({ ...input, wanted: isRing }, params, context, [])
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
