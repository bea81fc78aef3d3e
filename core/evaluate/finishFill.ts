/** What is done to a fill's values before they are laid: colours agree, exposure and saturation are set, grain is put back. */
import { knownPixels, type FillInput, type FillResult, type GatherReport } from '../fill/method'
import { calmGrain } from '../finish/calmGrain'
import { carryGrain } from '../finish/carriedGrain'
import type { PictureBeside } from '../finish/drift'
import { grainOver } from '../finish/grain'
import { grainLevelTable, LEVEL_STEPS, measureGrain } from '../finish/grainModel'
import type { GrainModel } from '../finish/measuredGrain'
import { exposureCurve, joinPairs, matchTone, saturateInto } from '../finish/tone'
import type { Finish } from '../document/mend'
import { withKernelMemory } from '../kernels/memory'
import { kernels } from '../kernels/module'
import type { PlateShape } from '../shot/clip'
import type { RunContext } from '../shot/context'
import { measurePairs, type PairsBeside } from './otherFrames'
import type { Placement } from './placement'

/** What was read of the frames beside, for finishing. */
export interface Beside {
  readonly pairs: readonly PairsBeside[]
  readonly grain: readonly PictureBeside[]
}

/** Finishes a fill's values in place. */
export function finishInto(
  fill: Extract<FillResult, { ok: true }>,
  placement: Placement,
  input: FillInput,
  beside: Beside,
  plate: PlateShape,
  context: RunContext,
): void {
  const { mend, method } = placement
  const { values, grainKept, gathered = null } = fill
  if (method.isCopy && mend.finish.agree > 0) agreeInto(values, input, placement, beside.pairs, context)
  trimInto(values, input, mend.finish)
  const raises = method.raisesGrain === true && grainKept.some((kept) => kept > 1)
  if (mend.finish.grain === 0 || method.keepsThing || (!raises && !lacksGrain(input, grainKept))) return
  const step = 1 / (plate.bitDepth === 8 ? 255 : 65535)
  const { picture, rect, field, outerPx, taboo } = input
  const model = measureGrain(picture, rect, field, outerPx, taboo, step, beside.grain)
  const bounded = boundedGrain(model, gathered)
  const kept = raises
    ? calmGrain(values, grainKept, picture.data, field, rect, picture.channels, bounded, fill.grainless)
    : grainKept
  if (!raises || lacksGrain(input, kept)) addGrainInto(values, kept, input, bounded, mend.finish)
}

/** Frames beside count the less, the further they are. */
const AGREE_WEIGHTS = [1, 0.8, 0.5] as const

function agreeInto(
  values: Float32Array,
  input: FillInput,
  { method, params, mend }: Placement,
  pairs: readonly PairsBeside[],
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
  { exposureStops, saturation }: Finish,
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

const isLacking = ({ wanted }: FillInput, grainKept: Float32Array, entry: number): boolean =>
  wanted[entry]! > 0 && grainKept[entry]! < WHOLE_GRAIN

function lacksGrain(input: FillInput, grainKept: Float32Array): boolean {
  for (let i = 0; i < input.field.count; i++) if (isLacking(input, grainKept, i)) return true
  return false
}

/** Texture that moves in several ways is easily taken for grain; what frames of the same place differ by is grain. */
function boundedGrain(model: GrainModel, gathered: GatherReport | null): GrainModel {
  const known = gathered?.grainDeviations
  if (!known) return model
  const bins = model.levels.length / known.length
  return { ...model, levels: model.levels.map((level, i) => Math.min(level, known[Math.floor(i / bins)]!)) }
}

function addGrainInto(
  values: Float32Array,
  grainKept: Float32Array,
  input: FillInput,
  model: GrainModel,
  finish: Finish,
): void {
  const { field, picture, rect, seed, frame } = input
  const { channels } = picture
  const [entries, places] = [new Int32Array(field.count), new Int32Array(field.count)]
  let count = 0
  for (let i = 0; i < field.count; i++) {
    if (!isLacking(input, grainKept, i)) continue
    places[count] = field.pixels[i]!
    entries[count++] = i
  }
  const [lacking, pixels] = [entries.subarray(0, count), places.subarray(0, count)]
  const grain =
    finish.grainFrom === 'carried'
      ? carryGrain(picture, field, lacking, knownPixels(input))
      : grainOver(seed, frame, rect, pixels, channels, model.coarsePx)
  if (!grain) return
  const levels = finish.grainFrom === 'carried' ? null : grainLevelTable(model, channels)
  withKernelMemory(
    2 * values.byteLength + grainKept.byteLength + 8 * count + grain.byteLength + 16384,
    (scope) => {
      const inside = scope.pointerTo(values)
      const kept = scope.pointerTo(grainKept)
      const table = levels ?? new Float32Array(channels * (LEVEL_STEPS + 1)).fill(1)
      // prettier-ignore
      kernels().addGrain(
      inside, kept, scope.pointerTo(lacking), count, channels, scope.pointerTo(grain), scope.pointerTo(table),
      LEVEL_STEPS, finish.grain,
    )
      values.set(new Float32Array(kernels().memory.buffer, inside, values.length))
    },
  )
}
