import { z } from 'zod'
import { sampleManyInto } from '../../image/sample'
import { withKernelMemory } from '../../kernels/memory'
import { layerOfMark } from '../../image/markPicture'
import { curveNumber, levelAt } from '../../curveKeys'
import { labelled } from '../../parameter'
import { cleanPlate } from '../cleanPlate/cleanPlate'
import {
  finished,
  gatherAround,
  gatherFramesOf,
  GATHER_REACH,
  steadyUnseen,
  toEntries,
  unseenParam,
  wantedEntries,
  type EntryValues,
} from '../gathered/gatherAround'
import { shareLaidAfter } from './raisedGrain'
import { weighIn, type UndonePlaces } from './weighIn'
import { defineFill, ownValues, type FillInput, type FillMark, type FillMethod } from '../method'

const params = z.strictObject({
  mark: labelled(z.string().max(300).default(''), {
    title: 'Mark picture',
    help: 'What the mark looks like by itself: worked out from the shot, or a picture with alpha.',
    unit: '',
    isMark: true,
  }),
  on: labelled(z.int().min(0).max(10_000_000).default(0), {
    title: 'Placed on',
    help: 'The frame on which the picture lies at the place below; it goes with the area from there.',
    unit: '',
    isFrame: true,
  }),
  leftPx: labelled(z.number().min(-100_000).max(100_000).default(0), {
    title: 'Left',
    help: 'The left edge of the mark picture on that frame.',
    unit: 'px',
    step: 0.1,
  }),
  topPx: labelled(z.number().min(-100_000).max(100_000).default(0), {
    title: 'Top',
    help: 'The upper edge of the mark picture on that frame.',
    unit: 'px',
    step: 0.1,
  }),
  opacity: labelled(z.number().min(0).max(2).default(1), {
    title: 'Opacity',
    help: 'How strongly the mark lies over the shot, times its picture: 1 takes off as much as the picture says.',
    unit: '×',
    step: 0.01,
  }),
  fades: labelled(curveNumber(0, 1, 1), {
    title: 'Fade',
    help: 'How much of the mark is there on this frame, for one that fades or pulses: straight between keys.',
    unit: '×',
    step: 0.01,
  }),
  dense: labelled(z.number().min(0.2).max(1).default(0.9), {
    title: 'Fill from',
    help: 'Where the mark covers more than this, hardly anything comes through: those places are filled.',
    unit: '×',
    step: 0.01,
  }),
  fillFrom: labelled(z.enum(['near', 'frames']).default('near'), {
    title: 'Fill dense places',
    help: 'From what lies around them, or from other frames that show them.',
    unit: '',
    choices: { near: 'From nearby', frames: 'From other frames' },
  }),
  others: labelled(z.enum(['no', 'weighed']).default('no'), {
    title: 'Other frames',
    help: 'What other frames show under the mark is weighed with what was undone, each by how sure it is.',
    unit: '',
    choices: { no: 'Not asked', weighed: 'Weighed in' },
  }),
  unseen: unseenParam.default('near'),
})

type Settings = z.output<typeof params>

/**
 * Unmix: takes a translucent mark off and keeps what is under it, grain included.
 *
 * Symbols: P the plate, a the mark's opacity, b its colour times opacity. P = (1 − a) T + b, so T = (P − b) / (1 − a). Where the mark is too dense, or the
 * plate is clipped under it, nothing can be undone: those places are filled.
 */
export const unmix: FillMethod = defineFill<typeof params, unknown>({
  id: 'unmix',
  version: 2,
  title: 'Unmix',
  summary:
    'Takes a translucent mark off and keeps what is under it. Needs the mark’s picture; dense parts are filled, and faint contrast under it comes back with its grain raised.',
  source:
    'T. Porter, T. Duff, "Compositing digital images", SIGGRAPH 1984: "over", solved for what lies below.',
  params,
  needsPath: false,
  raisesGrain: true,
  hasDraft: true,
  reach: () => GATHER_REACH,
  needsMark: ({ mark, on, leftPx, topPx }) => (mark === '' ? null : { of: mark, on, x: leftPx, y: topPx }),
  steady: {
    ...steadyUnseen,
    gathers: ({ fillFrom, others }, frame, plate) =>
      fillFrom === 'frames' || others === 'weighed'
        ? cleanPlate.steady!.gathers!(cleanPlate.params.parse({}), frame, plate)
        : undefined,
  },

  run(input, settings, context, prepared = []) {
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'Before it began.' }
    if (!input.mark) {
      return {
        ok: false,
        reason: 'no-source',
        detail: 'The mark’s picture is missing. Work it out from the shot, or bring one in.',
      }
    }
    const hidden = wantedEntries(input)
    const undone = undoMark(input, input.mark, hidden, settings)
    const dense = hidden.filter((entry) => undone.isDense[entry] === 1)
    const asked = settings.others === 'weighed' ? hidden : dense
    if (asked.length === 0) return { ok: true, values: undone.values, grainKept: undone.grainKept }
    const frames = gatherFramesOf(prepared)
    const gathered = gatherAround(input, asked, frames, { registers: true, relights: true }, context)
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'While gathering.' }
    const weighed = gathered && settings.others === 'weighed' ? weighIn(input, undone, gathered, asked) : null
    const entries = toEntries(input, asked, gathered)
    layUndone(entries, undone, hidden, input.picture.channels)
    // Only dense places depend on having been seen; where no frame was asked there is nothing to say of it.
    const isDense = Float32Array.from(undone.isDense)
    const report = () => (frames.length === 0 ? null : { ...entries.report(isDense)!, weighed })
    return finished(input, { ...entries, report }, settings.unseen, context)
  },
})

/** Samples at the very end of the range say only that there was at least as much. */
const CLIPPED_FROM = 1 - 0.5 / 255
/** Under so faint a mark a clipped sample is as good as any. */
const FAINT = 0.05

function undoMark(
  input: FillInput,
  { picture: mark, x, y }: FillMark,
  hidden: Int32Array,
  { opacity: trim, fades, dense }: Settings,
): UndonePlaces {
  // As it holds on this frame.
  const opacity = trim * levelAt(fades, input.frame)
  const { field, picture, rect } = input
  const { channels, data } = picture
  const values = ownValues(input)
  const grainKept = new Float32Array(field.count).fill(1)
  const isDense = new Uint8Array(field.count)
  const shares = new Float32Array(field.count)
  const added = new Float32Array(field.count * channels)
  const positions = new Float32Array(2 * hidden.length)
  for (let k = 0; k < hidden.length; k++) {
    const pixel = field.pixels[hidden[k]!]!
    const row = (pixel / rect.width) | 0
    positions[2 * k] = rect.col + (pixel - row * rect.width) + 0.5 - x
    positions[2 * k + 1] = rect.row + row + 0.5 - y
  }
  const layer = layerOfMark(mark)
  const planes = layer.channels
  const read = new Float32Array(hidden.length * planes)
  withKernelMemory(layer.data.byteLength + positions.byteLength + read.byteLength + 8192, (scope) =>
    sampleManyInto(read, layer, positions, 'bicubic', scope),
  )
  for (let k = 0; k < hidden.length; k++) {
    const [left, top] = [positions[2 * k]!, positions[2 * k + 1]!]
    if (left < 0 || top < 0 || left >= mark.width || top >= mark.height) continue
    const entry = hidden[k]!
    const from = field.pixels[entry]! * channels
    const own = read[k * planes + mark.channels]!
    const share = Math.min(1, Math.max(0, opacity * own))
    shares[entry] = share
    let isClipped = false
    for (let c = 0; c < channels; c++) isClipped ||= data[from + c]! >= CLIPPED_FROM
    // Dense in its own picture: that hardly lets anything through, or nothing has told what is there, also where it fades.
    if ((own >= dense || share >= dense || isClipped) && share > FAINT) {
      isDense[entry] = 1
      continue
    }
    const gain = 1 / (1 - share)
    for (let c = 0; c < Math.min(channels, mark.channels); c++) {
      added[entry * channels + c] = opacity * read[k * planes + c]!
      const under = (data[from + c]! - added[entry * channels + c]!) * gain
      values[entry * channels + c] = Math.min(1, Math.max(0, under))
    }
    grainKept[entry] = gain * gain
  }
  const share = laidAfter(input, values, grainKept, isDense)
  for (const entry of hidden) grainKept[entry] = 1 + share * (grainKept[entry]! - 1)
  return { values, grainKept, shares, added, isDense }
}

/** The share of the noise that came after the mark, as what was undone shows it. */
function laidAfter(
  { field, picture, taboo }: FillInput,
  values: Float32Array,
  raised: Float32Array,
  isDense: Uint8Array,
): number {
  const { width, height, channels } = picture
  const undone = { ...picture, data: picture.data.slice() }
  const places = new Float32Array(width * height)
  for (let pixel = 0; pixel < places.length; pixel++) places[pixel] = taboo && taboo[pixel] !== 0 ? 0 : 1
  for (let i = 0; i < field.count; i++) {
    const pixel = field.pixels[i]!
    places[pixel] = isDense[i] === 1 ? 0 : Math.min(places[pixel]!, 1) * raised[i]!
    for (let c = 0; c < channels; c++) undone.data[pixel * channels + c] = values[i * channels + c]!
  }
  return shareLaidAfter(undone, places)
}

/** Puts what was undone beside what was gathered: known to whatever fills the rest. */
function layUndone(
  { values, grainKept, isSeen }: EntryValues,
  undone: UndonePlaces,
  hidden: Int32Array,
  channels: number,
): void {
  for (const entry of hidden) {
    if (undone.isDense[entry] === 1) continue
    isSeen[entry] = 1
    grainKept[entry] = undone.grainKept[entry]!
    for (let c = 0; c < channels; c++) values[entry * channels + c] = undone.values[entry * channels + c]!
  }
}
