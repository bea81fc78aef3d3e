import { z } from 'zod'
import { clustersOf } from '../../image/clusters'
import { convolveSeparable, gaussianTaps } from '../../image/convolve'
import { createRaster, type Raster } from '../../image/raster'
import type { Rect } from '../../image/rect'
import { labelled } from '../../parameter'
import { NO_SOURCE } from '../clone/clone'
import { takeContoursOut } from './contours'
import { gridOf, RIM, solveLaplace } from '../../image/laplace'
import { wantedPixels } from '../membrane/membrane'
import {
  defineFill,
  isTrouble,
  knownPixels,
  type FillInput,
  type FillMethod,
  type Prepared,
  type Surroundings,
} from '../method'
import type { RunContext } from '../../shot/context'
import { bridgeUnread, readSource, sourceThere, type ReadSource } from '../readSource'

const params = z.strictObject({
  structure: labelled(z.enum(['source', 'own']).default('source'), {
    title: 'Structure',
    help: 'Where the fine structure comes from: from the source, or from the place itself, so that pores and threads stay.',
    unit: '',
    choices: { source: 'Source', own: 'Own' },
  }),
  detailPx: labelled(z.number().min(0.5).max(16).default(4), {
    title: 'Detail',
    help: 'Structure finer than this stays.',
    unit: 'px',
    step: 0.5,
    shownWhen: { parameter: 'structure', is: 'own' },
  }),
  radiusPx: labelled(z.number().min(0).max(64).default(8), {
    title: 'Radius',
    help: 'How far around the area it looks for brightness and colour: 0 meets the rim pixel by pixel, more is calmer.',
    unit: 'px',
    step: 0.5,
  }),
  touch: labelled(z.enum(['both', 'darker', 'lighter', 'found']).default('both'), {
    title: 'Touch',
    help: 'Everything, only what is darker than its surroundings (a spot on skin), or only what is lighter (a drop, shine); or whichever of these the spot is found to be.',
    unit: '',
    choices: { both: 'Both', darker: 'Darker', lighter: 'Lighter', found: 'Found' },
  }),
})

type Settings = z.output<typeof params>

/** Frames to either side whose rims have a say, and how much: the brightness that is laid in does not shimmer. */
const BESIDE_FRAMES = 2
const BESIDE_WEIGHTS = [1, 0.8, 0.5] as const
const KNEE = 0.012 // of the plate's scale, three 8-bit steps: where "darker" and "lighter" begin to count

/** What the plate has beyond the structure, near the area: sums weighted by a Gaussian, and the weights' sum. */
interface RimOffsets {
  readonly rect: Rect
  readonly sums: Raster
  readonly weights: Raster
}

interface Kept {
  readonly there: Surroundings | null
  readonly rim: RimOffsets | null
}

/**
 * Heal: structure from one place, brightness and colour from the rim.
 *
 * What the rim has beyond the structure's own values there is stretched over the area as a membrane and added: the
 * gradients are the structure's, the rim is the plate's. Source: P. Pérez, M. Gangnet, A. Blake, "Poisson image
 * editing", SIGGRAPH 2003, in the form of T. Georgiev (a membrane of the difference). Rim differences are averaged
 * over `radius` and over the frames beside, so that grain on the rim does not shimmer over the whole area.
 */
export const heal: FillMethod = defineFill<typeof params, Kept>({
  id: 'heal',
  version: 1,
  title: 'Heal',
  summary:
    'Structure from a source, or the place’s own; brightness and colour from the rim. For patches, blemishes, covers that must not show.',
  source: 'P. Pérez, M. Gangnet, A. Blake, "Poisson image editing", SIGGRAPH 2003.',
  params,
  needsPath: false,
  needsSource: ({ structure }) => structure === 'source',
  reach: ({ radiusPx, detailPx }) => ({
    marginPx: Math.ceil(1.5 * radiusPx + 3 * detailPx) + 4,
    ringPx: ringOf(radiusPx),
  }),

  steady: {
    wants: ({ structure }) => ({ besideFrames: BESIDE_FRAMES, anchor: false, clear: structure === 'source' }),
    prepare(input, settings, _context, purpose) {
      if (purpose === 'clear') return { there: sourceThere(input), rim: null }
      const structure = readStructure(input, settings, [])
      return structure ? { there: null, rim: measureRim(input, settings, structure) } : null
    },
  },

  run(input, settings, context, prepared = []) {
    if (context.shouldStop()) return stopped
    if (settings.structure === 'source' && !input.source) return NO_SOURCE
    const structure = readStructure(input, settings, prepared)!
    const rim = measureRim(input, settings, structure)
    const offsets = rimOffsets(input, rim, prepared)
    if (context.shouldStop()) return stopped
    return healWith(input, settings, context, structure, offsets)
  },
})

const stopped = { ok: false, reason: 'stopped', detail: 'While healing.' } as const
const ringOf = (radiusPx: number): number => Math.ceil(Math.max(2, 1.5 * radiusPx)) + 1

/** The structure at every entry on the area and on the ring around it. */
function readStructure(
  input: FillInput,
  settings: Settings,
  prepared: readonly Prepared<Kept>[],
): ReadSource | null {
  const farthest = Math.max(input.rimPx + ringOf(settings.radiusPx), input.outerPx)
  const { field } = input
  if (settings.structure === 'source') {
    if (!input.source) return null
    const clear = prepared
      .filter(({ purpose }) => purpose === 'clear')
      .map((one) => ({ ...one, value: one.value.there }))
    return readSource(input, input.source, clear, (i) => field.edges[i]! <= farthest)
  }
  const { picture } = input
  const taps = gaussianTaps(settings.detailPx)
  const smooth = convolveSeparable(picture, taps, taps)
  const values = new Float32Array(field.count * picture.channels)
  const isSeen = new Uint8Array(field.count)
  for (let i = 0; i < field.count; i++) {
    if (field.edges[i]! > farthest) continue
    isSeen[i] = 1
    const at = field.pixels[i]! * picture.channels
    for (let c = 0; c < picture.channels; c++)
      values[i * picture.channels + c] = picture.data[at + c]! - smooth.data[at + c]!
  }
  takeContoursOut(values, isSeen, input)
  const kept = 1 - 1 / (1 + 4 * Math.PI * settings.detailPx * settings.detailPx)
  return {
    values,
    isSeen,
    grainKept: new Float32Array(field.count).fill(kept),
    faults: { outsidePicture: 0, insideOthers: 0 },
  }
}

/** What the plate has beyond the structure at every place around the area that may be learnt from. */
function measureRim(
  input: FillInput,
  { radiusPx, structure: from }: Settings,
  structure: ReadSource,
): RimOffsets {
  const { picture, rect, field } = input
  const { width, height, channels } = picture
  const known = knownPixels(input)
  const sums = createRaster(width, height, channels)
  const weights = createRaster(width, height, 1)
  for (let i = 0; i < field.count; i++) {
    const pixel = field.pixels[i]!
    if (structure.isSeen[i] === 0 || known[pixel] === 0) continue
    weights.data[pixel] = 1
    // Of its own structure only the mean is wanted: what the plate is there on the whole.
    for (let c = 0; c < channels; c++) {
      sums.data[pixel * channels + c] =
        picture.data[pixel * channels + c]! - (from === 'source' ? structure.values[i * channels + c]! : 0)
    }
  }
  if (radiusPx < 0.5) return { rect, sums, weights }
  const taps = gaussianTaps(radiusPx / 2)
  return { rect, sums: convolveSeparable(sums, taps, taps), weights: convolveSeparable(weights, taps, taps) }
}

/** The offsets of this frame and of those beside, as one raster; 0 weight where no frame says anything. */
function rimOffsets(input: FillInput, own: RimOffsets, prepared: readonly Prepared<Kept>[]): RimOffsets {
  const beside = prepared.filter(({ purpose, value }) => purpose === 'beside' && value.rim)
  if (beside.length === 0) return own
  const { picture, rect, field } = input
  const { width, channels } = picture
  const sums = own.sums.data.slice()
  const weights = own.weights.data.slice()
  for (let i = 0; i < field.count; i++) {
    const pixel = field.pixels[i]!
    if (own.weights.data[pixel]! <= 0) continue
    for (const { value, areaFromHere, frame } of beside) {
      const rim = value.rim!
      // An area's middle moves by a shift.
      const col = Math.floor(rect.col + (pixel % width) + 0.5 + areaFromHere[2]) - rim.rect.col
      const row = Math.floor(rect.row + ((pixel / width) | 0) + 0.5 + areaFromHere[5]) - rim.rect.row
      if (col < 0 || row < 0 || col >= rim.rect.width || row >= rim.rect.height) continue
      const at = row * rim.rect.width + col
      const weight = rim.weights.data[at]!
      if (weight <= 0) continue
      // Each frame's own mean, so that a frame on which less of the rim is seen does not pull.
      const share = (BESIDE_WEIGHTS[Math.abs(frame - input.frame)] ?? 0) * own.weights.data[pixel]!
      for (let c = 0; c < channels; c++)
        sums[pixel * channels + c]! += (share * rim.sums.data[at * channels + c]!) / weight
      weights[pixel]! += share
    }
  }
  return { rect, sums: { ...own.sums, data: sums }, weights: { ...own.weights, data: weights } }
}

function healWith(
  input: FillInput,
  settings: Settings,
  context: RunContext,
  structure: ReadSource,
  offsets: RimOffsets,
) {
  const { field, picture, wanted } = input
  const { channels } = picture
  const { values, isSeen, grainKept, faults } = structure
  const target = wantedPixels(input)
  const known = knownPixels(input)
  for (let pixel = 0; pixel < known.length; pixel++) if (offsets.weights.data[pixel]! <= 0) known[pixel] = 0
  const grid = gridOf(target, known, picture.width)
  const rim: Raster = { ...picture, data: new Float32Array(picture.data.length) }
  for (const neighbour of grid.neighbours)
    if (neighbour <= RIM) offsetInto(rim.data, RIM - neighbour, offsets, channels)
  if (grid.count > 0 && !grid.hasRim) {
    return {
      ok: false,
      reason: 'nothing-known',
      detail: 'Nothing of the rim may be learnt from: it is covered, held out or outside the picture.',
    } as const
  }
  if (!bridgeUnread(input, values, isSeen, grainKept, new Uint8Array(known.length))) {
    return {
      ok: false,
      reason: 'no-source',
      detail:
        'Nothing of the source can be taken on this frame. Move it into the picture and clear of holdouts.',
    } as const
  }
  const solved = solveLaplace(grid, rim, () => context.shouldStop())
  if (!solved) return stopped
  const offset = new Float32Array(channels)
  for (let i = 0, k = 0; i < field.count; i++) {
    const isUnknown = k < grid.count && field.pixels[i] === grid.pixels[k]
    if (wanted[i]! > 0) {
      if (isUnknown) for (let c = 0; c < channels; c++) offset[c] = solved[k * channels + c]!
      else if (isTrouble(input, i) || offsets.weights.data[field.pixels[i]!]! <= 0) offset.fill(0)
      else offsetInto(offset, field.pixels[i]!, offsets, channels, 0)
      for (let c = 0; c < channels; c++) values[i * channels + c]! += offset[c]!
    }
    if (isUnknown) k++
  }
  if (settings.touch !== 'both')
    keepUntouched(input, darkerShares(settings.touch, input, values), values, grainKept)
  return { ok: true, values, grainKept, faults } as const
}

function offsetInto(
  target: Float32Array,
  pixel: number,
  { sums, weights }: RimOffsets,
  channels: number,
  at = pixel,
): void {
  const weight = weights.data[pixel]!
  for (let c = 0; c < channels; c++)
    target[at * channels + c] = weight > 0 ? sums.data[pixel * channels + c]! / weight : 0
}

/** A spot that is off by less, on average, is as much darker as lighter; of the plate's scale. */
const CLEARLY = 0.02

/**
 * For each entry how far only what is darker is touched, 1, or only what is lighter, 0. Each spot is found by itself, and softly, so that a faint one does
 * not change sides from frame to frame.
 */
function darkerShares(
  touch: 'darker' | 'lighter' | 'found',
  input: FillInput,
  values: Float32Array,
): Float32Array {
  const { field, picture, wanted } = input
  const shares = new Float32Array(field.count).fill(touch === 'darker' ? 1 : 0)
  if (touch !== 'found') return shares
  const size = picture.width * picture.height
  const [mask, entryAt] = [new Uint8Array(size), new Int32Array(size)]
  for (let i = 0; i < field.count; i++) {
    if (wanted[i] === 0) continue
    mask[field.pixels[i]!] = 1
    entryAt[field.pixels[i]!] = i
  }
  for (const spot of clustersOf(mask, picture.width, picture.height, 1)) {
    let [sum, total] = [0, 0]
    for (const pixel of spot) {
      // What is off most is the spot; its rim is not.
      const lift = liftAt(input, values, entryAt[pixel]!)
      sum += Math.abs(lift) * lift
      total += Math.abs(lift)
    }
    const share = Math.min(1, Math.max(0, 0.5 + (total > 0 ? sum / total : 0) / CLEARLY))
    for (const pixel of spot) shares[entryAt[pixel]!] = share
  }
  return shares
}

/** By how much the fill is brighter than the plate, mean of colours. */
function liftAt({ field, picture: { channels, data } }: FillInput, values: Float32Array, i: number): number {
  const colours = Math.min(channels, 3)
  const at = field.pixels[i]! * channels
  let lift = 0
  for (let c = 0; c < colours; c++) lift += (values[i * channels + c]! - data[at + c]!) / colours
  return lift
}

/** Puts the plate back where it is already on the right side of the healed value. @param darker  For each entry 1 where only what is darker is touched, 0 for what is lighter. */
function keepUntouched(
  input: FillInput,
  darker: Float32Array,
  values: Float32Array,
  grainKept: Float32Array,
): void {
  const {
    field,
    picture: { channels, data },
    wanted,
  } = input
  for (let i = 0; i < field.count; i++) {
    if (wanted[i] === 0) continue
    const at = field.pixels[i]! * channels
    const lift = liftAt(input, values, i) / KNEE
    const [up, down] = [Math.min(1, Math.max(0, lift)), Math.min(1, Math.max(0, -lift))]
    const share = darker[i]! * up + (1 - darker[i]!) * down
    for (let c = 0; c < channels; c++)
      values[i * channels + c] = data[at + c]! + share * (values[i * channels + c]! - data[at + c]!)
    grainKept[i] = 1 - share * (1 - grainKept[i]!)
  }
}
