/** Fills one area and lays it over the picture: fill, colour, grain, coverage. */
import type { RunContext } from '../fill/method'
import { knownPixels, type FillFaults, type FillInput, type GatherReport } from '../fill/method'
import { carryGrain } from '../finish/carriedGrain'
import { grainOver } from '../finish/grain'
import { grainLevelAt, measureGrain, type GrainModel } from '../finish/grainModel'
import { exposureCurve, joinPairs, matchTone, saturateInto } from '../finish/tone'
import type { Raster } from '../image/raster'
import type { Rect } from '../image/rect'
import { coverKept, holdoutDistancesOf, subtractHoldout, tabooOf } from './coverage'
import type { MendNote, PlateShape } from '../shot/clip'
import { fieldMarginPx, fillInput, measurePairs, type Looked } from './readFrames'
import type { Placement } from './placement'
import { runFill } from './runFill'

/** The picture of a group of mends as it is being worked on. */
export interface Canvas {
  readonly rect: Rect
  readonly picture: Raster
  /** 1 for each pixel that a mend has changed. */
  readonly isTouched: Uint8Array
  /** How far each pixel is still there, 1 to 0; made when the first hole is cut. */
  alpha: Float32Array | null
}

/** What was laid over the picture, for measuring it afterwards. */
export interface Applied {
  readonly placement: Placement
  readonly input: FillInput
  readonly coverage: Float32Array
  readonly faults: FillFaults | null
  readonly gathered: GatherReport | null
  /** Only what differs from what was gathered was replaced: the area's own edge is nowhere to be seen. */
  readonly isTidied: boolean
}

/** @returns null when nothing was laid: a note says why. */
export async function applyMend(
  placement: Placement,
  looked: Looked,
  frame: number,
  canvas: Canvas,
  plate: PlateShape,
  context: RunContext,
  notes: MendNote[],
): Promise<Applied | null> {
  const { mend, method, params, shape, holdouts, otherMends, readRect } = placement
  const whole = coverKept(looked.cache, [shape], readRect, fieldMarginPx(placement), mend.finish)
  const covered = holdouts.length > 0 ? { ...whole, coverage: whole.coverage.slice() } : whole
  for (const holdout of holdouts) subtractHoldout(covered.coverage, covered.field, holdout, readRect)
  const picture = cropRaster(canvas.picture, canvas.rect, readRect)
  const taboo = tabooOf(otherMends, readRect)
  const input = fillInput(
    placement,
    frame,
    { picture, rect: readRect, taboo },
    covered,
    looked.source,
    placement.cover.sourceFromTarget,
    looked.still,
    { plate },
    holdoutDistancesOf(holdouts, covered.field, readRect, method.widensPx?.(params) ?? 0),
  )
  const result = await runFill(placement, input, looked, context)
  if (!result.ok) {
    notes.push({ mendId: mend.id, reason: result.reason, detail: result.detail })
    return null
  }
  const { values, grainKept, holes = null, faults = null, gathered = null, needed = null } = result
  if (method.isCopy && mend.finish.agree > 0) agreeInto(values, input, placement, looked, context)
  trimInto(values, input, mend.finish)
  if (mend.finish.grain > 0 && !method.keepsThing && lacksGrain(input, grainKept)) {
    const model = measureGrain(
      picture,
      readRect,
      input.field,
      input.outerPx,
      taboo,
      1 / (plate.bitDepth === 8 ? 255 : 65535),
      looked.grain,
    )
    addGrainInto(values, grainKept, input, boundedGrain(model, gathered), mend.finish)
  }
  const coverage = needed ? covered.coverage.map((one, i) => one * needed[i]!) : covered.coverage
  blendInto(canvas, values, holes, needed ? { ...input, wanted: coverage } : input, mend.share)
  return { placement, input, coverage, faults, gathered, isTidied: needed !== null }
}

export function cropRaster({ channels, width, data }: Raster, from: Rect, rect: Rect): Raster {
  const out = new Float32Array(rect.width * rect.height * channels)
  for (let row = 0; row < rect.height; row++) {
    const at = ((rect.row - from.row + row) * width + rect.col - from.col) * channels
    out.set(data.subarray(at, at + rect.width * channels), row * rect.width * channels)
  }
  return { width: rect.width, height: rect.height, channels, data: out }
}

/** Frames beside count the less, the further they are. */
const AGREE_WEIGHTS = [1, 0.8, 0.5] as const

function agreeInto(
  values: Float32Array,
  input: FillInput,
  { method, params, mend }: Placement,
  { pairs }: Looked,
  context: RunContext,
): void {
  const own = measurePairs(method, params, input, context)
  const all = pairs.map(({ frame, sums }) => ({
    sums,
    weight: AGREE_WEIGHTS[Math.abs(frame - input.frame)] ?? 0,
  }))
  if (own) all.push({ sums: own, weight: 1 })
  const match = all.length > 0 ? matchTone(joinPairs(all)) : null
  if (!match) return
  const { channels } = input.picture
  const { agree } = mend.finish
  for (let i = 0; i < input.field.count; i++) {
    if (input.wanted[i] === 0) continue
    for (let c = 0; c < channels; c++) {
      const value = values[i * channels + c]!
      values[i * channels + c] = value + agree * (match.gains[c]! * value + match.offsets[c]! - value)
    }
  }
}

function trimInto(
  values: Float32Array,
  { field, picture, wanted }: FillInput,
  { exposureStops, saturation }: Placement['mend']['finish'],
): void {
  const curve = exposureCurve(exposureStops)
  const { channels } = picture
  const isColour = channels >= 3
  if (!curve && (saturation === 1 || !isColour)) return
  const lit = isColour ? 3 : channels
  for (let i = 0; i < field.count; i++) {
    if (wanted[i] === 0) continue
    if (curve) for (let c = 0; c < lit; c++) values[i * channels + c] = curve(values[i * channels + c]!)
    if (saturation !== 1 && isColour) saturateInto(values, i * channels, saturation)
  }
}

const WHOLE_GRAIN = 0.999

function lacksGrain({ field, wanted }: FillInput, grainKept: Float32Array): boolean {
  for (let i = 0; i < field.count; i++) if (wanted[i]! > 0 && grainKept[i]! < WHOLE_GRAIN) return true
  return false
}

/** Texture that moves in several ways is easily taken for grain; what frames of the same place differ by is grain. */
function boundedGrain(model: GrainModel, gathered: GatherReport | null): GrainModel {
  const known = gathered?.grainDeviations
  if (!known) return model
  const bins = model.levels.length / known.length
  return { ...model, levels: model.levels.map((level, i) => Math.min(level, known[Math.floor(i / bins)]!)) }
}

/** Levels are looked up in a table of so many steps over the range 0 to 1. */
const LEVEL_STEPS = 256

function levelTable(model: GrainModel, channels: number): Float32Array {
  const table = new Float32Array(channels * (LEVEL_STEPS + 1))
  for (let c = 0; c < channels; c++) {
    for (let i = 0; i <= LEVEL_STEPS; i++)
      table[c * (LEVEL_STEPS + 1) + i] = grainLevelAt(model, c, i / LEVEL_STEPS)
  }
  return table
}

function addGrainInto(
  values: Float32Array,
  grainKept: Float32Array,
  input: FillInput,
  model: GrainModel,
  finish: Placement['mend']['finish'],
): void {
  const { field, picture, rect, wanted, seed, frame } = input
  const { channels } = picture
  const entries = new Int32Array(field.count)
  let count = 0
  for (let i = 0; i < field.count; i++)
    if (wanted[i]! > 0 && grainKept[i]! < WHOLE_GRAIN) entries[count++] = i
  const lacking = entries.subarray(0, count)
  const isLacking = (i: number) => wanted[i]! > 0 && grainKept[i]! < WHOLE_GRAIN
  const carried =
    finish.grainFrom === 'carried' ? carryGrain(picture, field, isLacking, knownPixels(input)) : null
  const made = carried
    ? null
    : grainOver(
        seed,
        frame,
        rect,
        lacking.map((i) => field.pixels[i]!),
        channels,
        model.coarsePx,
      )
  const levels = levelTable(model, channels)
  for (let k = 0; k < count; k++) {
    const i = lacking[k]!
    const missing = finish.grain * Math.sqrt(Math.max(0, 1 - grainKept[i]!))
    for (let c = 0; c < channels; c++) {
      const at = i * channels + c
      const value = values[at]!
      const step = value <= 0 ? 0 : value >= 1 ? LEVEL_STEPS : (value * LEVEL_STEPS + 0.5) | 0
      values[at] =
        value +
        missing * (carried ? carried[at]! : levels[c * (LEVEL_STEPS + 1) + step]! * made![k * channels + c]!)
    }
  }
}

function blendInto(
  canvas: Canvas,
  values: Float32Array,
  holes: Float32Array | null,
  { field, wanted, rect }: FillInput,
  share: number,
): void {
  const { picture, isTouched } = canvas
  const { channels, width, data } = picture
  const [left, top] = [rect.col - canvas.rect.col, rect.row - canvas.rect.row]
  if (holes) canvas.alpha ??= new Float32Array(isTouched.length).fill(1)
  for (let i = 0; i < field.count; i++) {
    const weight = wanted[i]! * share
    if (weight === 0) continue
    const pixel =
      (((field.pixels[i]! / rect.width) | 0) + top) * width + (field.pixels[i]! % rect.width) + left
    const hole = holes ? holes[i]! : 0
    for (let channel = 0; channel < channels; channel++) {
      const at = pixel * channels + channel
      data[at] = data[at]! + weight * (values[i * channels + channel]! - data[at]!)
    }
    // Cut away, or covered again by a mend that comes later.
    if (canvas.alpha) canvas.alpha[pixel] = canvas.alpha[pixel]! + weight * (1 - hole - canvas.alpha[pixel]!)
    isTouched[pixel] = 1
  }
}
