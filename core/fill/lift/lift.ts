import { z } from 'zod'
import { srgb } from '../../colour/transfer'
import { sayOf, windowedRatio } from '../../image/windowedRatio'
import { labelled } from '../../parameter'
import { cleanPlate } from '../cleanPlate/cleanPlate'
import {
  finished,
  gatherAround,
  gatherFramesOf,
  GATHER_REACH,
  toEntries,
  nothingWanted,
  steadyUnseen,
  unseenParam,
  wantedEntries,
  type EntryValues,
} from '../gathered/gatherAround'
import { defineFill, type FillInput, type FillMethod } from '../method'

const params = z.strictObject({
  smoothPx: labelled(z.number().min(0.5).max(16).default(1), {
    title: 'Softness',
    unit: 'px',
    help: 'How softly the dust’s shade may run: what is finer is taken for detail behind it.',
    step: 0.5,
  }),
  least: labelled(z.number().min(0.02).max(0.9).default(0.2), {
    title: 'Lift from',
    unit: '×',
    help: 'Where less of the light than this comes through, the place is filled: there is nothing left to lift.',
    step: 0.01,
  }),
  unseen: unseenParam.default('membrane'),
})

/** Frames to either side, and every so many of them: few show well enough how much light is missing. */
const AROUND_FRAMES = 24
const EVERY_FRAMES = 2

/**
 * Dust lift: divides out what dust takes of the light, and keeps all that passes behind it, grain included.
 *
 * Symbols: P the plate, S the same places as other frames saw them clear of the dust, both as light; T = Σ w P S / Σ w S², the share
 * that comes through, by least squares over all channels under a Gaussian w. The result is P / T.
 */
export const lift: FillMethod = defineFill<typeof params, unknown>({
  id: 'lift',
  version: 1,
  title: 'Dust lift',
  summary:
    'Divides out the light that soft dust takes and keeps what passes behind it. Needs a picture that moves; where it rests, the dust is filled.',
  source:
    'Common practice; least squares over a window as in guided filtering: K. He, J. Sun, X. Tang, ECCV 2010.',
  params,
  needsPath: false,
  hasDraft: true,
  reach: () => GATHER_REACH,
  steady: {
    ...steadyUnseen,
    gathers: (_, frame, plate) =>
      cleanPlate.steady!.gathers!(
        cleanPlate.params.parse({ before: AROUND_FRAMES, after: AROUND_FRAMES, every: EVERY_FRAMES }),
        frame,
        plate,
      ),
  },

  run(input, { smoothPx, least, unseen }, context, prepared = []) {
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'Before it began.' }
    const hidden = wantedEntries(input)
    if (hidden.length === 0) return nothingWanted(input)
    // The scene's motion is near enough: what is off by a little is averaged over the window.
    const gathered = gatherAround(
      input,
      hidden,
      gatherFramesOf(prepared),
      { registers: false, relights: true },
      context,
    )
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'While gathering.' }
    const entries = toEntries(input, hidden, gathered)
    liftInto(entries, input, hidden, smoothPx, least)
    return finished(input, entries, unseen, context)
  },
})

/** Puts the lifted plate in place of what was gathered, wherever enough light comes through. */
function liftInto(
  { values, grainKept, isSeen }: EntryValues,
  { picture, field }: FillInput,
  hidden: Int32Array,
  smoothPx: number,
  minShare: number,
): void {
  const { width, height, channels, data } = picture
  const colours = Math.min(3, channels)
  const seen = hidden.filter((entry) => isSeen[entry] === 1)
  const pixels = seen.map((entry) => field.pixels[entry]!)
  const [own, clear] = [new Float32Array(seen.length * colours), new Float32Array(seen.length * colours)]
  seen.forEach((entry, k) => {
    for (let c = 0; c < colours; c++) {
      own[k * colours + c] = srgb.decode(data[pixels[k]! * channels + c]!)
      clear[k * colours + c] = srgb.decode(values[entry * channels + c]!)
    }
  })
  const through = sharesThrough(own, clear, pixels, colours, { width, height }, smoothPx)
  seen.forEach((entry, k) => {
    if (!(through[k]! >= minShare)) return // NaN where all is black
    const gain = 1 / Math.min(1, through[k]!)
    for (let c = 0; c < channels; c++) {
      values[entry * channels + c] =
        c < colours ? srgb.encode(own[k * colours + c]! * gain) : data[pixels[k]! * channels + c]!
    }
    grainKept[entry] = 1
  })
}

/** A first look over a window so many times as wide tells what passes behind the dust by itself: it has no say in the second. */
const WIDER = 2
/** Deviation of a share from its window's from which on it has half a say. */
const STRAY_SHARE = 0.25

/** The share of light that comes through, for each pixel. @param own, clear  Light, colours interleaved. */
function sharesThrough(
  own: Float32Array,
  clear: Float32Array,
  pixels: Int32Array,
  colours: number,
  size: { readonly width: number; readonly height: number },
  smoothPx: number,
): Float32Array {
  const say = new Float32Array(pixels.length).fill(1)
  const [products, squares] = [new Float32Array(pixels.length), new Float32Array(pixels.length)]
  for (let k = 0; k < pixels.length; k++) {
    for (let c = 0; c < colours; c++) {
      products[k]! += own[k * colours + c]! * clear[k * colours + c]!
      squares[k]! += clear[k * colours + c]! * clear[k * colours + c]!
    }
  }
  let wide = windowedRatio(products, squares, say, pixels, size, WIDER * smoothPx, null)
  for (let round = 0; round < 2; round++) {
    for (let k = 0; k < pixels.length; k++) {
      const off = (products[k]! / squares[k]! - wide[k]!) / STRAY_SHARE
      say[k] = Number.isFinite(off) ? sayOf(off) : 0
    }
    wide = windowedRatio(products, squares, say, pixels, size, WIDER * smoothPx, null)
  }
  return windowedRatio(products, squares, say, pixels, size, smoothPx, wide)
}
