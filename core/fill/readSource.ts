/** What fills that copy share: the plate at the mend's source, place by place. */
import { apply, type Matrix3 } from '../geometry/transform'
import { sampleManyInto } from '../image/sample'
import { withKernelMemory } from '../kernels/memory'
import { gridOf, solveLaplace } from '../image/laplace'
import {
  FREE,
  NEVER,
  type FillFaults,
  type FillInput,
  type FillSource,
  type Prepared,
  type Surroundings,
} from './method'

export interface ReadSource {
  /** Channels interleaved, for each entry of the field; 0 where nothing was to be had. */
  readonly values: Float32Array
  /** 1 for each entry whose source was to be had, on this frame or on a clear one. */
  readonly isSeen: Uint8Array
  /** Share of the grain's variance that reading between pixels leaves. */
  readonly grainKept: Float32Array
  readonly faults: FillFaults
}

const WHOLE_PX = 1e-3 // nearer to whole pixels a shift is taken for whole: the samples come over as they are
const FOOTPRINT_PX = 2

/**
 * The source of every entry that `isAsked`.
 *
 * Pixels outside the picture, held out, or still showing trouble are never taken. Where the source is not to be had
 * on this frame, the same piece of ground is taken from the nearest clear frames, blended by their nearness in time.
 */
export function readSource(
  input: FillInput,
  source: FillSource,
  clear: readonly Prepared<Surroundings | null>[],
  isAsked: (entry: number) => boolean,
): ReadSource {
  const { field, rect, picture, pictureSize, frame } = input
  const { channels } = picture
  const entries = new Int32Array(field.count)
  let count = 0
  for (let i = 0; i < field.count; i++) if (isAsked(i)) entries[count++] = i
  const places = new Float64Array(2 * count)
  const [a, b, c, d, e, f, g, h, w] = source.sourceFromTarget
  for (let k = 0; k < count; k++) {
    const pixel = field.pixels[entries[k]!]!
    const x = rect.col + (pixel % picture.width) + 0.5
    const y = rect.row + ((pixel / picture.width) | 0) + 0.5
    const scale = 1 / (g * x + h * y + w)
    places[2 * k] = (a * x + b * y + c) * scale
    places[2 * k + 1] = (d * x + e * y + f) * scale
  }
  const status = lookAt(source, places, count, pictureSize)
  const out: ReadSource = {
    values: new Float32Array(field.count * channels),
    isSeen: new Uint8Array(field.count),
    grainKept: new Float32Array(field.count),
    faults: faultsOf(input, entries, status, count),
  }
  const direct = read(source, places, count)
  for (let k = 0; k < count; k++) {
    if (status[k] !== SEEN && status[k] !== INSIDE_MENDED) continue
    put(out, entries[k]!, direct, k, channels, 1)
  }
  fromClearFrames(out, clear, entries, places, count, status, frame, pictureSize, channels)
  return out
}

/** Shares of what is laid: on the ring around it a source that is not to be had costs nothing. */
function faultsOf({ wanted }: FillInput, entries: Int32Array, status: Uint8Array, count: number): FillFaults {
  let [laid, outside, inside] = [0, 0, 0]
  for (let k = 0; k < count; k++) {
    if (wanted[entries[k]!] === 0) continue
    laid++
    if (status[k] === OUTSIDE) outside++
    else if (status[k] !== SEEN) inside++
  }
  return { outsidePicture: outside / Math.max(1, laid), insideOthers: inside / Math.max(1, laid) }
}

const SEEN = 0
const INSIDE_MENDED = 1
const INSIDE_NEVER = 2
const OUTSIDE = 3

function lookAt(
  { rect, taboo }: Surroundings,
  places: Float64Array,
  count: number,
  size: { width: number; height: number },
): Uint8Array {
  const status = new Uint8Array(count)
  const inRect = (col: number, row: number) => col >= 0 && row >= 0 && col < rect.width && row < rect.height
  for (let k = 0; k < count; k++) {
    const x = places[2 * k]!
    const y = places[2 * k + 1]!
    if (!(x >= 0 && y >= 0 && x < size.width && y < size.height)) {
      status[k] = OUTSIDE
      continue
    }
    const col = Math.floor(x) - rect.col
    const row = Math.floor(y) - rect.row
    if (!inRect(col, row)) {
      status[k] = OUTSIDE
      continue
    }
    if (!taboo) continue
    const isWhole =
      Math.abs(x - Math.floor(x) - 0.5) < WHOLE_PX && Math.abs(y - Math.floor(y) - 0.5) < WHOLE_PX
    const reach = isWhole ? 0 : FOOTPRINT_PX
    let worst = FREE
    for (let dy = -reach; dy <= reach && worst < NEVER; dy++) {
      for (let dx = -reach; dx <= reach; dx++) {
        if (inRect(col + dx, row + dy)) worst = Math.max(worst, taboo[(row + dy) * rect.width + col + dx]!)
      }
    }
    status[k] = worst === NEVER ? INSIDE_NEVER : worst === FREE ? SEEN : INSIDE_MENDED
  }
  return status
}

interface Readings {
  readonly values: Float32Array
  readonly kept: Float32Array
}

function read({ picture, rect }: Surroundings, places: Float64Array, count: number): Readings {
  const { width, height, channels, data } = picture
  const values = new Float32Array(count * channels)
  const kept = new Float32Array(count)
  const positions = new Float32Array(2 * count)
  let areWhole = true
  for (let k = 0; k < count; k++) {
    const u = snapped(places[2 * k]! - rect.col)
    const v = snapped(places[2 * k + 1]! - rect.row)
    positions[2 * k] = u
    positions[2 * k + 1] = v
    const fu = u - 0.5 - Math.floor(u - 0.5)
    const fv = v - 0.5 - Math.floor(v - 0.5)
    areWhole &&= fu === 0 && fv === 0
    kept[k] = fu === 0 && fv === 0 ? 1 : keptBetween(fu) * keptBetween(fv)
  }
  if (areWhole) {
    // Nothing lies between pixels: the samples themselves.
    for (let k = 0; k < count; k++) {
      const col = Math.min(Math.max(Math.floor(positions[2 * k]!), 0), width - 1)
      const row = Math.min(Math.max(Math.floor(positions[2 * k + 1]!), 0), height - 1)
      const at = (row * width + col) * channels
      for (let c = 0; c < channels; c++) values[k * channels + c] = data[at + c]!
    }
    return { values, kept }
  }
  withKernelMemory(data.byteLength + positions.byteLength + values.byteLength + 4096, (scope) =>
    sampleManyInto(values, picture, positions, 'bicubic', scope),
  )
  return { values, kept }
}

const snapped = (at: number): number => {
  const nearest = Math.floor(at) + 0.5
  return Math.abs(at - nearest) < WHOLE_PX ? nearest : at
}

/** Sum of the squared weights of the interpolating cubic, a = −1/2, so far past a pixel. */
function keptBetween(f: number): number {
  const a = ((-0.5 * f + 1) * f - 0.5) * f
  const b = (1.5 * f - 2.5) * f * f + 1
  const c = ((-1.5 * f + 2) * f + 0.5) * f
  const d = (0.5 * f - 0.5) * f * f
  return Math.min(1, a * a + b * b + c * c + d * d)
}

function put(
  out: ReadSource,
  entry: number,
  { values, kept }: Readings,
  k: number,
  channels: number,
  share: number,
): void {
  for (let c = 0; c < channels; c++) out.values[entry * channels + c]! += share * values[k * channels + c]!
  out.grainKept[entry]! += share * share * kept[k]!
  out.isSeen[entry] = 1
}

function fromClearFrames(
  out: ReadSource,
  clear: readonly Prepared<Surroundings | null>[],
  entries: Int32Array,
  places: Float64Array,
  count: number,
  status: Uint8Array,
  frame: number,
  size: { width: number; height: number },
  channels: number,
): void {
  const list: number[] = []
  for (let k = 0; k < count; k++) if (out.isSeen[entries[k]!] === 0 && status[k] !== OUTSIDE) list.push(k)
  if (list.length === 0) return
  const missing = Int32Array.from(list)
  const looks = clear.flatMap(({ value, groundFromHere, frame: other }) => {
    if (!value) return []
    const there = moved(places, missing, groundFromHere)
    const states = lookAt(value, there, missing.length, size)
    return [
      {
        states,
        readings: read(value, there, missing.length),
        nearness: 1 / Math.max(1, Math.abs(other - frame)),
      },
    ]
  })
  missing.forEach((k, m) => {
    const usable = looks.filter(({ states }) => states[m] === SEEN)
    const total = usable.reduce((sum, { nearness }) => sum + nearness, 0)
    for (const { readings, nearness } of usable)
      put(out, entries[k]!, readings, m, channels, nearness / total)
  })
}

function moved(places: Float64Array, chosen: Int32Array, by: Matrix3): Float64Array {
  const out = new Float64Array(2 * chosen.length)
  chosen.forEach((k, m) => {
    const { x, y } = apply(by, places[2 * k]!, places[2 * k + 1]!)
    out[2 * m] = x
    out[2 * m + 1] = y
  })
  return out
}

/** What a fill that copies keeps of a clear frame: the plate at the source there. */
export const sourceThere = ({ source }: FillInput): Surroundings | null =>
  source && { picture: source.picture, rect: source.rect, taboo: source.taboo }

/**
 * Wanted entries that could not be read are stretched over from those that could and from the plate around.
 * @returns false when there is nothing to stretch.
 */
export function bridgeUnread(
  input: FillInput,
  values: Float32Array,
  isSeen: Uint8Array,
  grainKept: Float32Array,
  known: Uint8Array,
): boolean {
  const { field, picture, wanted } = input
  const { channels } = picture
  const size = picture.width * picture.height
  let isMissing = false
  for (let i = 0; i < field.count && !isMissing; i++) isMissing = isSeen[i] === 0 && wanted[i]! > 0
  if (!isMissing) return true
  const isUnknown = new Uint8Array(size)
  const isKnown = known.slice()
  const scratch = { ...picture, data: picture.data.slice() }
  for (let i = 0; i < field.count; i++) {
    const pixel = field.pixels[i]!
    if (isSeen[i] === 1) {
      isKnown[pixel] = 1
      for (let c = 0; c < channels; c++) scratch.data[pixel * channels + c] = values[i * channels + c]!
    } else if (wanted[i]! > 0) {
      isUnknown[pixel] = 1
      isKnown[pixel] = 0
    }
  }
  const grid = gridOf(isUnknown, isKnown, picture.width)
  if (!grid.hasRim) return false
  const solved = solveLaplace(grid, scratch, () => false)!
  for (let i = 0, k = 0; i < field.count; i++) {
    if (field.pixels[i] !== grid.pixels[k]) continue
    for (let c = 0; c < channels; c++) values[i * channels + c] = solved[k * channels + c]!
    grainKept[i] = 0
    k++
  }
  return true
}
