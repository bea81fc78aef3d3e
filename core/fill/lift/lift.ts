import { z } from 'zod'
import { srgb } from '../../colour/transfer'
import { createRaster } from '../../image/raster'
import { convolveSeparable, gaussianTaps } from '../../image/convolve'
import { labelled } from '../../parameter'
import { cleanPlate } from '../cleanPlate/cleanPlate'
import {
  finished,
  gatherAround,
  gatherFramesOf,
  GATHER_REACH,
  layOut,
  nothingWanted,
  steadyUnseen,
  unseenParam,
  wantedEntries,
  type LaidOut,
} from '../gathered/gatherAround'
import { defineFill, type FillInput, type FillMethod } from '../method'

const params = z.strictObject({
  smoothPx: labelled(z.number().min(0.5).max(16).default(2), {
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
const AROUND_FRAMES = 18
const EVERY_FRAMES = 6

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
  source: 'Common practice; least squares over a window as in guided filtering: K. He, J. Sun, X. Tang, ECCV 2010.',
  params,
  needsPath: false,
  hasPreview: true,
  reach: () => GATHER_REACH,
  steady: {
    ...steadyUnseen,
    gathers: (_, frame, plate) =>
      cleanPlate.steady!.gathers!(cleanPlate.params.parse({ before: AROUND_FRAMES, after: AROUND_FRAMES, every: EVERY_FRAMES }), frame, plate),
  },

  run(input, { smoothPx, least, unseen }, context, prepared = []) {
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'Before it began.' }
    const hidden = wantedEntries(input)
    if (hidden.length === 0) return nothingWanted(input)
    // Where the scene's motion is known it is near enough: what is off by a little is averaged over the window.
    const registers = !prepared.some(({ layersFromHere }) => layersFromHere)
    const gathered = gatherAround(input, hidden, gatherFramesOf(prepared), { registers, relights: true }, context)
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'While gathering.' }
    const laid = layOut(input, hidden, gathered)
    liftInto(laid, input, hidden, smoothPx, least)
    return finished(input, laid, unseen, context, prepared)
  },
})

/** Puts the lifted plate in place of what was gathered, wherever enough light comes through. */
function liftInto({ values, grainKept, isSeen }: LaidOut, { picture, field }: FillInput, hidden: Int32Array, smoothPx: number, least: number): void {
  const { width, height, channels, data } = picture
  const colours = Math.min(3, channels)
  const products = createRaster(width, height, 2)
  for (const entry of hidden) {
    if (isSeen[entry] === 0) continue
    const pixel = field.pixels[entry]!
    for (let c = 0; c < colours; c++) {
      const [own, clear] = [srgb.decode(data[pixel * channels + c]!), srgb.decode(values[entry * channels + c]!)]
      products.data[pixel * 2]! += own * clear
      products.data[pixel * 2 + 1]! += clear * clear
    }
  }
  const taps = gaussianTaps(smoothPx)
  const sums = convolveSeparable(products, taps, taps).data
  for (const entry of hidden) {
    if (isSeen[entry] === 0) continue
    const pixel = field.pixels[entry]!
    const through = sums[pixel * 2]! / sums[pixel * 2 + 1]!
    if (!(through >= least)) continue // NaN where all is black
    for (let c = 0; c < channels; c++) {
      const own = data[pixel * channels + c]!
      values[entry * channels + c] = c < colours ? srgb.encode(srgb.decode(own) / Math.min(1, through)) : own
    }
    grainKept[entry] = 1
  }
}
