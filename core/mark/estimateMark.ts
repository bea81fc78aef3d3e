/**
 * The picture of a mark from the footage that it lies on: on frames spread over its span the ground under it is gathered from other
 * frames, and what the mark adds and how far it covers is fitted to all of them. A second round knows which pixels belong to the mark.
 */
import { sampleManyInto } from '../image/sample'
import type { Raster } from '../image/raster'
import { withKernelMemory } from '../kernels/memory'
import type { RunContext } from '../shot/context'
import { groundUnder, type Ground, type MarkFootage } from './groundUnder'
import { gridOfOpacity, gridOfOutlines, MAX_TAKEN_OFF, type MarkGrid, type MarkPlace } from './markPlaces'
import { NOT_ASKED, SEEN, type MarkObservation } from './observation'
import { regressMark, type RegressedMark } from './regressMark'
import { byEdges, tellByEdges, withEdges, type ByEdges, type EdgesTold } from './tellByEdges'

export interface MarkRequest extends MarkFootage {
  /** Each x, y pairs, px of the frame of reference, on which nothing is shifted. */
  readonly outlines: readonly (readonly number[])[]
  /** Frames that have the mark. */
  readonly places: readonly MarkPlace[]
}

export interface EstimatedMark extends RegressedMark {
  /** Where its upper left corner lies on the frame of reference, px. */
  readonly col: number
  readonly row: number
  /** Share of the mark's pixels, over all frames looked at, whose ground other frames showed. */
  readonly seenShare: number
  /** What nothing moves under, and the mark's own edges tell; null where frames do. */
  readonly byEdges: ByEdges | null
}

/** Found so faint a pixel is still the mark's. */
const MIN_OPACITY = 0.03
/**
 * Frames that are looked at, at most; which pixels found before belong to the mark: those that are not fainter than a share of its dense parts, and so
 * many px around. What is known of the mark bares more of the ground, and the ground tells more of the mark.
 */
const ROUNDS = [
  { frames: 8, faintShare: 0, aroundPx: 0 },
  { frames: 8, faintShare: 0.25, aroundPx: 4 },
  { frames: 12, faintShare: 0.15, aroundPx: 3 },
  { frames: 32, faintShare: 0.1, aroundPx: 2 },
] as const

/** @returns null when it was stopped, or no frame shows the mark. */
export async function estimateMark(request: MarkRequest, context: RunContext): Promise<EstimatedMark | null> {
  const total = ROUNDS.reduce((sum, { frames }) => sum + Math.min(frames, request.places.length), 0)
  let done = 0
  const onFrame = () => context.onProgress?.(++done, total)
  let grid = gridOfOutlines(request.outlines)
  let mark: EstimatedMark | null = null
  let edges: EdgesTold | null = null
  const rests = request.places.every(({ dx, dy }) => dx === 0 && dy === 0)
  for (const { frames, faintShare, aroundPx } of ROUNDS) {
    if (mark) {
      const { untold } = mark
      const limit = Math.max(MIN_OPACITY, faintShare * denseOf(mark.opacity))
      // What nothing has told yet is asked again.
      const asked = mark.opacity.map((one, at) => (untold[at] === 1 ? 1 : one))
      grid = gridOfOpacity(grid.rect, asked, limit, aroundPx)
      if (rests) grid = withKnown(grid, mark)
    }
    const observed = await observeOn(request, grid, spread(request.places, frames), {
      ...context,
      onProgress: onFrame,
    })
    if (!observed) return null
    const { observations, seenShare, channels } = observed
    const { col, row, width, height } = grid.rect
    const regressed = regressMark(observations, { width, height, channels })
    // The extent of a mark under which nothing moves is told once, while all that was drawn round is asked.
    if (!mark) edges = tellByEdges(regressed, observations, context.shouldStop)
    const told = edges ? withEdges(regressed, edges) : regressed
    mark = { ...told, col, row, seenShare, byEdges: edges && byEdges(edges, told) }
  }
  return mark
}

/** So many frames have told a place well enough to take the mark off it on others. */
const WELL_SEEN = 4

/**
 * A mark that rests hides the same ground again and again where its letters are long: what is told of it is taken off other frames, so that those show what is under the rest.
 * One that travels bares what it hides, and one that fades would have to be known on each frame.
 */
function withKnown(grid: MarkGrid, mark: EstimatedMark): MarkGrid {
  if (mark.strengths.some((one) => one !== 1)) return grid
  const { opacity, added, seenCounts, channels } = mark
  const told = { ...mark, opacity: opacity.slice(), added: added.slice() }
  const hides = grid.mask.slice()
  for (let at = 0; at < hides.length; at++) {
    if (seenCounts[at]! >= WELL_SEEN && opacity[at]! <= MAX_TAKEN_OFF) {
      hides[at] = 0
      continue
    }
    told.opacity[at] = 0
    told.added.fill(0, at * channels, (at + 1) * channels)
  }
  return { ...grid, known: { picture: told, hides } }
}

/** As it is kept: what nothing told is taken for dense, in the mark's usual colour, so that it is filled, not undone. */
export function withUntoldDense(mark: EstimatedMark): EstimatedMark {
  const { channels, untold } = mark
  const [opacity, added] = [mark.opacity.slice(), mark.added.slice()]
  const usual = new Float64Array(channels)
  let covered = 0
  for (let at = 0; at < opacity.length; at++) {
    covered += mark.opacity[at]!
    for (let c = 0; c < channels; c++) usual[c]! += mark.added[at * channels + c]!
  }
  for (let at = 0; at < opacity.length; at++) {
    if (untold[at] === 0) continue
    opacity[at] = 1
    for (let c = 0; c < channels; c++) added[at * channels + c] = covered > 0 ? usual[c]! / covered : 0
  }
  return { ...mark, opacity, added }
}

interface Observed {
  readonly observations: readonly MarkObservation[]
  readonly channels: number
  /** Of the places that were asked, how many other frames showed. */
  readonly seenShare: number
}

/** What frames show of the mark. The context is told of every one. @returns null when it was stopped, or no frame shows the mark. */
async function observeOn(
  footage: MarkFootage,
  grid: MarkGrid,
  places: readonly MarkPlace[],
  context: RunContext,
): Promise<Observed | null> {
  const observations: MarkObservation[] = []
  let [seen, asked, channels] = [0, 0, 0]
  for (const place of places) {
    const ground = await groundUnder(footage, grid, place, context)
    if (context.shouldStop()) return null
    context.onProgress?.(0, 0)
    if (!ground) continue
    channels = ground.plate.channels
    const observed = observe(ground, grid, place)
    for (const one of observed.known) {
      if (one !== NOT_ASKED) asked++
      if (one === SEEN) seen++
    }
    observations.push(observed)
  }
  return observations.length === 0
    ? null
    : { observations, channels, seenShare: asked === 0 ? 0 : seen / asked }
}

/** How opaque the denser parts of the mark are. */
function denseOf(opacity: Float32Array): number {
  const sorted = opacity.filter((one) => one > 0).sort()
  return sorted[Math.floor(0.9 * sorted.length)] ?? 0
}

/** At most so many, evenly. */
function spread(places: readonly MarkPlace[], max: number): MarkPlace[] {
  if (places.length <= max) return [...places]
  return Array.from({ length: max }, (_, i) => places[Math.round((i * (places.length - 1)) / (max - 1))]!)
}

/** What a frame shows at the mark's own places. */
export function observe(
  { rect, plate, ground, known }: Ground,
  { rect: mark, mask }: MarkGrid,
  { dx, dy }: MarkPlace,
): MarkObservation {
  const size = mark.width * mark.height
  const positions = new Float32Array(2 * size)
  const seen = new Uint8Array(size)
  for (let row = 0, at = 0; row < mark.height; row++) {
    for (let col = 0; col < mark.width; col++, at++) {
      const [x, y] = [mark.col + col + 0.5 + dx - rect.col, mark.row + row + 0.5 + dy - rect.row]
      positions[2 * at] = x
      positions[2 * at + 1] = y
      const [left, top] = [Math.floor(x), Math.floor(y)]
      if (left < 0 || top < 0 || left >= rect.width || top >= rect.height) continue
      if (mask[at] === 1) seen[at] = known[top * rect.width + left]!
    }
  }
  const read = (raster: Raster): Float32Array => {
    const out = new Float32Array(size * raster.channels)
    withKernelMemory(raster.data.byteLength + positions.byteLength + out.byteLength + 8192, (scope) =>
      sampleManyInto(out, raster, positions, 'bicubic', scope),
    )
    return out
  }
  return { plate: read(plate), ground: read(ground), known: seen }
}
