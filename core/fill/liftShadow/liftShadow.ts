import { z } from 'zod'
import { srgb } from '../../colour/transfer'
import { gridOf, solveLaplace } from '../../image/laplace'
import { createRaster } from '../../image/raster'
import { log, pow } from '../../kernels/exact'
import { measurePictureField } from '../../matte/pictureMatte'
import { labelled } from '../../parameter'
import { BESIDE_PX, type EdgeLook } from '../../shadow/groundLook'
import { shadeFromEdge } from '../../shadow/shadeFromEdge'
import { shadeFromLit } from '../../shadow/shadeFromLit'
import { shadeFromAnchor, steadyShade, type SteadyShade } from './steadyShade'
import { glintsOf } from '../../shadow/glints'
import { shareThrough, type Shade, type ShadedPlaces } from '../../shadow/shade'
import type { RunContext } from '../../shot/context'
import { cleanPlate } from '../cleanPlate/cleanPlate'
import {
  finished,
  gatherAround,
  gatherFramesOf,
  GATHER_REACH,
  nothingWanted,
  steadyUnseen,
  toEntries,
  unseenParam,
  wantedEntries,
  type EntryValues,
} from '../gathered/gatherAround'
import {
  defineFill,
  isPending,
  knownPixels,
  type FillInput,
  type FillMethod,
  type FillOutcome,
  type FillResult,
  type Prepared,
  type FoundShade,
} from '../method'

/** A little is read beyond the ground that is looked at. */
const READ_PX = 4

const stops = (title: string, help: string) =>
  labelled(z.number().min(-2).max(2).default(0), { title, help, unit: 'stops', step: 0.01 })

const params = z.strictObject({
  depth: labelled(z.number().min(0).max(2).default(1), {
    title: 'Depth',
    unit: '×',
    help: 'How much of the depth that was found is lifted: 1 lifts all of it.',
    step: 0.01,
  }),
  edgePx: labelled(z.number().min(0.5).max(32).default(2), {
    title: 'Softness',
    unit: 'px',
    help: 'How softly the shadow’s edge may run: what is finer is taken for texture of the ground.',
    step: 0.5,
  }),
  red: stops('Red', 'So much more of the red is lifted where the shadow is full.'),
  green: stops('Green', 'So much more of the green is lifted where the shadow is full.'),
  blue: stops('Blue', 'So much more of the blue is lifted where the shadow is full.'),
  least: labelled(z.number().min(0.01).max(0.9).default(0.04), {
    title: 'Lift from',
    unit: '×',
    help: 'Where less of the light than this comes through, the place is filled: there is nothing left to lift.',
    step: 0.01,
  }),
  unseen: unseenParam.default('near'),
})
type Settings = z.output<typeof params>

/** A map as smooth as a shadow is told by fewer frames than a plate that is seen itself. */
const LIT_FRAMES = cleanPlate.params.parse({ every: 4 })

/**
 * Lift shadow: gives the ground the light back that a shadow takes, and keeps its texture and grain.
 *
 * How much is missing is measured by the same ground lit, as other frames show it; where they do not, by what lies across the shadow's own edge,
 * once for a shadow that goes with its ground.
 */
export const liftShadow: FillMethod = defineFill<typeof params, unknown>({
  id: 'lift-shadow',
  version: 3,
  title: 'Lift shadow',
  summary:
    'Gives the ground the light back that a shadow takes and keeps its texture. Best where other frames show the same ground lit; else by what lies across the shadow’s edge.',
  source:
    'Light is ambient light plus a share of the direct one: R. Guo, Q. Dai, D. Hoiem, "Paired regions for shadow detection and removal", TPAMI 2013.',
  params,
  needsPath: false,
  raisesGrain: true,
  corrects: true,
  hasDraft: true,
  reach: () => ({ ...GATHER_REACH, marginPx: Math.max(GATHER_REACH.marginPx, BESIDE_PX + READ_PX) }),
  steady: {
    ...steadyUnseen,
    wants: (settings) => ({ ...steadyUnseen.wants(settings), anchor: 'late' }),
    prepare: (input, settings, context, purpose, parts = null) =>
      purpose === 'anchor'
        ? measureOnce(input, settings)
        : steadyUnseen.prepare(input, settings, context, purpose, parts),
    gathers: (_, frame, plate) => cleanPlate.steady!.gathers!(LIT_FRAMES, frame, plate),
  },

  run(input, settings, context, prepared = []) {
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'Before it began.' }
    const hidden = wantedEntries(input)
    if (hidden.length === 0) return nothingWanted(input)
    const frames = gatherFramesOf(prepared)
    const gathered = gatherAround(input, hidden, frames, { registers: true, relights: true }, context)
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'While gathering.' }
    const entries = toEntries(input, hidden, gathered)
    const grainless = gathered && grainlessOf(entries)
    const byFrames = litShareOf(entries, hidden) >= LIT_SHARE
    const lift = (anchor: readonly Prepared[]): FillOutcome => {
      const shade = liftInto(entries, input, hidden, byFrames, settings, context, anchor)
      const outcome = finished(input, entries, settings.unseen, context)
      return withFindings(outcome, { shade, ...(grainless ? { grainless } : {}) })
    }
    return byFrames ? lift([]) : { wants: 'anchor', parts: null, finish: lift }
  },
})

/** Of a shadow of which other frames show less of the ground lit, its own edge tells more. */
const LIT_SHARE = 0.5

function litShareOf({ isSeen }: EntryValues, hidden: Int32Array): number {
  let lit = 0
  for (const entry of hidden) lit += isSeen[entry]!
  return lit / hidden.length
}

/** The ground as other frames showed it lit: they have little grain together. */
function grainlessOf({ values, isSeen }: EntryValues): Float32Array {
  const channels = values.length / isSeen.length
  return values.map((value, i) => (isSeen[Math.floor(i / channels)] === 1 ? value : NaN))
}

interface Findings {
  readonly shade: FoundShade
  readonly grainless?: Float32Array
}

const withFindings = (outcome: FillOutcome, findings: Findings): FillOutcome =>
  isPending(outcome)
    ? { ...outcome, finish: (prepared) => withFindings(outcome.finish(prepared), findings) }
    : found(outcome, findings)

/** What was measured by its own edge was not gathered. */
function found(result: FillResult, findings: Findings): FillResult {
  if (!result.ok) return result
  const { gathered, ...rest } = result
  return gathered && findings.shade.by === 'frames' ? { ...result, ...findings } : { ...rest, ...findings }
}

/** By its own edge, on the anchor frame; null where nothing there is darker than what is around. */
function measureOnce(input: FillInput, { edgePx }: Settings): SteadyShade | null {
  const pixels = wantedEntries(input).map((entry) => input.field.pixels[entry]!)
  const { width, height, channels } = input.picture
  const places = { width, height, colours: Math.min(3, channels), pixels }
  const shade = shadeFromEdge(edgeLookOf(input), places, edgePx)
  return shade && steadyShade(input, pixels, shade)
}

/** @param byFrames  Whether other frames tell, or its own edge. @param anchor  What was made of the anchor frame. */
function liftInto(
  entries: EntryValues,
  input: FillInput,
  hidden: Int32Array,
  byFrames: boolean,
  settings: Settings,
  context: RunContext,
  anchor: readonly Prepared[],
): FoundShade {
  const { picture, field } = input
  const { width, height, channels, data } = picture
  const colours = Math.min(3, channels)
  const pixels = hidden.map((entry) => field.pixels[entry]!)
  const places: ShadedPlaces = { width, height, colours, pixels }
  const [own, lit] = [new Float32Array(hidden.length * colours), new Float32Array(hidden.length * colours)]
  const isLit = Uint8Array.from(hidden, (entry) => entries.isSeen[entry]!)
  hidden.forEach((entry, k) => {
    for (let c = 0; c < colours; c++) {
      own[k * colours + c] = srgb.decode(data[pixels[k]! * channels + c]!)
      lit[k * colours + c] = srgb.decode(entries.values[entry * channels + c]!)
    }
  })
  const isGlint = byFrames ? glintsOf(own, lit, isLit, places) : null
  const tells = isGlint ? isLit.map((one, k) => one & (1 - isGlint[k]!)) : isLit
  const shade = byFrames
    ? shadeFromLit(own, lit, tells, places, settings.edgePx)
    : (shadeFromAnchor(anchor, input, pixels) ?? shadeFromEdge(edgeLookOf(input), places, settings.edgePx))
  if (!shade) {
    layOwn(entries, data, channels, hidden, pixels)
    return { by: 'nothing', depthStops: new Array<number>(colours).fill(0), glintShare: 0 }
  }
  if (byFrames && tells.includes(0)) stretchOver(shade.strengths, tells, places, context)
  layLifted(entries, data, channels, hidden, own, shade, places, settings, isGlint)
  const depthStops = shade.missing.map((missing) => -log2(shareThrough(1, missing)))
  const glints = isGlint?.reduce((sum, one) => sum + one, 0) ?? 0
  return { by: byFrames ? 'frames' : 'edge', depthStops, glintShare: glints / hidden.length }
}

const log2 = (value: number): number => log(value) / log(2)

/** Nothing is darker than what is around: the plate stays. */
function layOwn(
  { values, grainKept, isSeen }: EntryValues,
  plate: Float32Array,
  channels: number,
  hidden: Int32Array,
  pixels: Int32Array,
): void {
  hidden.forEach((entry, k) => {
    isSeen[entry] = 1
    grainKept[entry] = 1
    for (let c = 0; c < channels; c++) values[entry * channels + c] = plate[pixels[k]! * channels + c]!
  })
}

/** The crop as light, and how deep in the area each pixel lies. */
function edgeLookOf(input: FillInput): EdgeLook {
  const { picture, field, rect } = input
  const { width, height, channels, data } = picture
  const colours = Math.min(3, channels)
  const light = createRaster(width, height, colours)
  for (let pixel = 0; pixel < width * height; pixel++)
    for (let c = 0; c < colours; c++)
      light.data[pixel * colours + c] = srgb.decode(data[pixel * channels + c]!)
  const coverage = new Float32Array(width * height)
  for (let i = 0; i < field.count; i++) if (field.edges[i]! < 0) coverage[field.pixels[i]!] = 1
  const { pixels, edges, count } = measurePictureField({ rect, coverage }, rect, BESIDE_PX)
  const depths = new Float32Array(width * height).fill(-Infinity)
  for (let i = 0; i < count; i++) depths[pixels[i]!] = -edges[i]!
  return { light, depths, isGround: knownPixels(input) }
}

/** What no frame showed lit goes on smoothly between what was. */
function stretchOver(
  strengths: Float32Array,
  isLit: Uint8Array,
  { width, height, pixels }: ShadedPlaces,
  context: RunContext,
): void {
  const map = createRaster(width, height, 1)
  const isUnknown = new Uint8Array(width * height)
  pixels.forEach((pixel, k) => {
    map.data[pixel] = strengths[k]!
    isUnknown[pixel] = 1 - isLit[k]!
  })
  const grid = gridOf(
    isUnknown,
    isUnknown.map((one) => 1 - one),
    width,
  )
  const solved = solveLaplace(grid, map, context.shouldStop)
  if (!solved) return
  grid.pixels.forEach((pixel, k) => (map.data[pixel] = solved[k]!))
  pixels.forEach((pixel, k) => (strengths[k] = map.data[pixel]!))
}

/** Puts the lifted plate in place of what was gathered, wherever enough light comes through; glints stay as the ground is lit. */
function layLifted(
  { values, grainKept, isSeen }: EntryValues,
  plate: Float32Array,
  channels: number,
  hidden: Int32Array,
  own: Float32Array,
  { strengths, missing }: Shade,
  { pixels, colours }: ShadedPlaces,
  { depth, red, green, blue, least }: Settings,
  isGlint: Uint8Array | null,
): void {
  const trims = [red, green, blue]
  for (let k = 0; k < hidden.length; k++) {
    const [entry, strength] = [hidden[k]!, strengths[k]!]
    let [raised, through] = [0, 1]
    for (let c = 0; c < colours; c++) through = Math.min(through, shareThrough(strength, missing[c]!))
    if (through < least) continue
    if (isGlint?.[k] === 1) {
      // As much of the ground lit as is lifted elsewhere.
      for (let c = 0; c < channels; c++) {
        const [at, was] = [entry * channels + c, plate[pixels[k]! * channels + c]!]
        values[at] = was + Math.min(1, depth) * (values[at]! - was)
      }
      continue
    }
    for (let c = 0; c < channels; c++) {
      const was = plate[pixels[k]! * channels + c]!
      if (c >= colours) {
        values[entry * channels + c] = was
        continue
      }
      const share = shareThrough(strength, missing[c]!)
      const trim = trims[c] === 0 ? 1 : pow(2, strength * trims[c]!)
      const gain = (depth === 1 ? 1 / share : pow(share, -depth)) * trim
      const lifted = srgb.encode(own[k * colours + c]! * gain)
      values[entry * channels + c] = lifted
      // Of a curve like a power the slope goes up as the value does.
      raised += (was > 0 ? lifted / was : 1) / colours
    }
    isSeen[entry] = 1
    grainKept[entry] = raised * raised
  }
}
