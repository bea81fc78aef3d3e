/** What lies under a mark on a frame: as other frames show it, and where none does, as what is around suggests. */
import { apply, IDENTITY, type Matrix3 } from '../geometry/transform'
import { gridOf, solveLaplace } from '../image/laplace'
import type { Raster } from '../image/raster'
import { growRect, intersectRects, rectAround, wholePicture, type Rect } from '../image/rect'
import { rasterFromSamples } from '../image/samples'
import { measurePictureField } from '../matte/pictureMatte'
import { gather } from '../plate/gather'
import type { GatherFrame } from '../plate/places'
import { motionsBetween, type Scene } from '../scene/scene'
import { layerMapOf } from '../scene/sceneLayers'
import type { Clip } from '../shot/clip'
import type { RunContext } from '../shot/context'
import type { FrameRange } from '../time'
import { GUESSED, SEEN } from './observation'
import { hidingGrid, isMarkedAt, markedIn, withoutKnown, type MarkGrid, type MarkPlace } from './markPlaces'

export interface Ground {
  readonly rect: Rect
  readonly plate: Raster
  /** The plate with the mark's places replaced. */
  readonly ground: Raster
  /** For each pixel SEEN, on this frame or on others, or GUESSED. */
  readonly known: Uint8Array
}

/** Plate around the mark by which frames are registered, px. */
const AROUND_PX = 40
const READ_PX = 4
const MAX_ANCHORS = 1400
const MAX_FRAMES = 16
/** So often a place is to be seen on other frames. */
const ENOUGH_SEEN = 5
const PROBES = 240
/** A frame that bares less of what is still wanted is not worth reading. */
const MIN_BARED = 0.02

export interface MarkFootage {
  readonly clip: Clip
  readonly scene: Scene | null
  readonly frames: FrameRange
  /** Where the mark lies on the frames that have it. */
  placeOn(frame: number): MarkPlace | null
  /** What else is mended on a frame, as a mask of the whole plate: it shows no ground either. */
  readonly othersOn?: (frame: number) => Promise<Uint8Array | null>
}

/** @returns null when it was stopped, or the mark lies outside the picture. */
export async function groundUnder(
  footage: MarkFootage,
  grid: MarkGrid,
  place: MarkPlace,
  context: RunContext,
): Promise<Ground | null> {
  const { clip } = footage
  const moved = rectAround(
    grid.rect.col + place.dx,
    grid.rect.row + place.dy,
    grid.rect.col + grid.rect.width + place.dx,
    grid.rect.row + grid.rect.height + place.dy,
  )
  const rect = intersectRects(growRect(moved, AROUND_PX + READ_PX), wholePicture(clip.plate))
  const marked = rect && markedIn(grid, place, rect)
  if (!rect || !marked) return null
  const plate = rasterFromSamples(await clip.readRect(place.frame, rect))
  const hidden = listOf(marked)
  const known = marked.map((one) => (one === 1 ? GUESSED : SEEN))
  const ground = { ...plate, data: plate.data.slice() }
  const frames = await readFrames(footage, grid, place, rect, hidden, context)
  if (context.shouldStop()) return null
  const gathered =
    frames.length === 0
      ? null
      : gather({
          frame: place.frame,
          picture: plate,
          rect,
          hidden,
          ...edgesOf(marked, rect),
          around: anchorsAround(marked),
          frames,
          layerMap: footage.scene && layerMapOf(footage.scene, place.frame, rect),
          registration: { registers: true, relights: true },
          shouldStop: context.shouldStop,
        })
  if (context.shouldStop()) return null
  const { channels } = plate
  for (let k = 0; gathered && k < hidden.length; k++) {
    if (gathered.seen[k] === 0) continue
    known[hidden[k]!] = SEEN
    for (let c = 0; c < channels; c++)
      ground.data[hidden[k]! * channels + c] = gathered.values[k * channels + c]!
  }
  return stretchOver(ground, known, context) ? { rect, plate, ground, known } : null
}

function listOf(mask: Uint8Array): Int32Array {
  const out = new Int32Array(mask.length)
  let count = 0
  for (let at = 0; at < mask.length; at++) if (mask[at] === 1) out[count++] = at
  return out.slice(0, count)
}

/** Plate next to the mark on which other frames are compared with this one, px. */
const RIM_PX = 6

/** How deep the hidden pixels lie, and every second pixel beside them, as on a draughtboard. */
function edgesOf(
  marked: Uint8Array,
  rect: Rect,
): { readonly depths: Float32Array; readonly rim: Int32Array } {
  const { count, edges, pixels } = measurePictureField(
    { rect, coverage: Float32Array.from(marked) },
    rect,
    RIM_PX,
  )
  const [depths, rim] = [new Float32Array(count), new Int32Array(count)]
  let [inside, beside] = [0, 0]
  for (let i = 0; i < count; i++) {
    if (edges[i]! < 0) {
      depths[inside++] = -edges[i]!
      continue
    }
    const row = (pixels[i]! / rect.width) | 0
    if (((pixels[i]! - row * rect.width + row) & 1) === 0) rim[beside++] = pixels[i]!
  }
  return { depths: depths.slice(0, inside), rim: rim.slice(0, beside) }
}

/** Pixels beside the mark, evenly, so many at most. */
function anchorsAround(marked: Uint8Array): Int32Array {
  let free = 0
  for (let at = 0; at < marked.length; at++) if (marked[at] === 0) free++
  const every = Math.max(1, Math.ceil(free / MAX_ANCHORS))
  const out = new Int32Array(Math.ceil(free / every))
  let [nth, count] = [0, 0]
  for (let at = 0; at < marked.length; at++) if (marked[at] === 0 && nth++ % every === 0) out[count++] = at
  return out
}

/** What is not known is stretched smoothly between what is. @returns false when it was stopped. */
function stretchOver(
  { width, height, channels, data }: Raster,
  known: Uint8Array,
  { shouldStop }: RunContext,
): boolean {
  const isUnknown = known.map((one) => (one === GUESSED ? 1 : 0))
  const grid = gridOf(
    isUnknown,
    isUnknown.map((one) => 1 - one),
    width,
  )
  if (grid.count === 0 || !grid.hasRim) return true
  const solved = solveLaplace(grid, { width, height, channels, data }, shouldStop)
  if (!solved) return false
  for (let k = 0; k < grid.count; k++) {
    const pixel = grid.pixels[k]!
    for (let c = 0; c < channels; c++) data[pixel * channels + c] = solved[k * channels + c]!
  }
  return true
}

/** Frames on which the ground under the mark is bare, the nearest first, until every place is seen often enough. */
async function readFrames(
  { clip, scene, frames, placeOn, othersOn }: MarkFootage,
  grid: MarkGrid,
  place: MarkPlace,
  rect: Rect,
  hidden: Int32Array,
  { shouldStop }: RunContext,
): Promise<GatherFrame[]> {
  const whole = wholePicture(clip.plate)
  const every = Math.max(1, Math.floor(hidden.length / PROBES))
  const probes = hidden.filter((_, k) => k % every === 0)
  const counts = new Uint8Array(probes.length)
  const chosen: GatherFrame[] = []
  for (let away = 1; away <= frames.lastFrame - frames.firstFrame && chosen.length < MAX_FRAMES; away++) {
    for (const frame of [place.frame - away, place.frame + away]) {
      if (frame < frames.firstFrame || frame > frames.lastFrame || shouldStop()) continue
      const layersFromHere = scene ? motionsBetween(scene, place.frame, frame) : [IDENTITY]
      const there = placeOn(frame)
      const bared = baredBy(layersFromHere[0]!, probes, counts, rect, whole, grid, there)
      if (bared.length < MIN_BARED * probes.length) continue
      for (const i of bared) counts[i]!++
      const crop = intersectRects(growRect(rectThroughAll(layersFromHere, rect), READ_PX), whole)
      if (!crop) continue
      const others = (await othersOn?.(frame)) ?? null
      const samples = await clip.readRect(frame, crop)
      chosen.push({
        frame,
        samples: there ? withoutKnown(samples, crop, grid) : samples,
        rect: crop,
        masked: joined(
          there && hiddenOn(grid, place, there, rect, hidden, layersFromHere[0]!, crop),
          others,
          crop,
          whole.width,
        ),
        layersFromHere,
        layerMap: scene && layerMapOf(scene, frame, crop),
      })
      if (chosen.length >= MAX_FRAMES) break
    }
  }
  return chosen
}

/** Pixels around a place that are read with it, px to each side. */
const FOOTPRINT_PX = 2

/**
 * The mark on another frame, as a mask; without what is known of it where that lies over ground that nothing else has shown. Elsewhere the mark would confirm itself.
 * @param here, there  Where the mark lies on both frames. @param hidden  Its pixels of the rectangle on this one.
 */
function hiddenOn(
  grid: MarkGrid,
  here: MarkPlace,
  there: MarkPlace,
  rect: Rect,
  hidden: Int32Array,
  motion: Matrix3,
  crop: Rect,
): Uint8Array | null {
  const marked = markedIn(grid, there, crop)
  if (!marked || !grid.known) return marked
  const hiding = hidingGrid(grid)
  for (const pixel of hidden) {
    const down = Math.floor(pixel / rect.width)
    const [ownX, ownY] = [rect.col + (pixel - down * rect.width) + 0.5, rect.row + down + 0.5]
    if (!isMarkedAt(hiding, here, ownX, ownY)) continue
    const { x, y } = apply(motion, ownX, ownY)
    const [col, row] = [Math.floor(x), Math.floor(y)]
    for (let v = row - FOOTPRINT_PX; v <= row + FOOTPRINT_PX; v++) {
      for (let u = col - FOOTPRINT_PX; u <= col + FOOTPRINT_PX; u++) {
        if (u < crop.col || v < crop.row || u >= crop.col + crop.width || v >= crop.row + crop.height)
          continue
        if (!isMarkedAt(hiding, there, u + 0.5, v + 0.5))
          marked[(v - crop.row) * crop.width + u - crop.col] = 0
      }
    }
  }
  return marked
}

/** @param others  Of the whole plate, so many px wide. */
function joined(
  marked: Uint8Array | null,
  others: Uint8Array | null,
  { col, row, width, height }: Rect,
  plateWidth: number,
): Uint8Array | null {
  if (!others) return marked
  const out = marked ?? new Uint8Array(width * height)
  for (let at = 0; at < out.length; at++) {
    const down = Math.floor(at / width)
    if (others[(row + down) * plateWidth + col + at - down * width] !== 0) out[at] = 1
  }
  return out
}

/** Which probes that are not yet seen often enough a frame shows. */
function baredBy(
  motion: Matrix3,
  probes: Int32Array,
  counts: Uint8Array,
  { col, row, width }: Rect,
  whole: Rect,
  grid: MarkGrid,
  there: MarkPlace | null,
): number[] {
  const bared: number[] = []
  for (let i = 0; i < probes.length; i++) {
    if (counts[i]! >= ENOUGH_SEEN) continue
    const down = Math.floor(probes[i]! / width)
    const { x, y } = apply(motion, col + (probes[i]! - down * width) + 0.5, row + down + 0.5)
    if (x < 0 || y < 0 || x >= whole.width || y >= whole.height) continue
    if (!there || !isMarkedAt(grid, there, x, y)) bared.push(i)
  }
  return bared
}

function rectThroughAll(motions: readonly Matrix3[], { col, row, width, height }: Rect): Rect {
  const corners = motions.flatMap((motion) =>
    [
      [col, row],
      [col + width, row],
      [col, row + height],
      [col + width, row + height],
    ].map(([x, y]) => apply(motion, x!, y!)),
  )
  const [xs, ys] = [corners.map(({ x }) => x), corners.map(({ y }) => y)]
  return rectAround(Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys))
}
