import { z } from 'zod'
import { convolveSeparable, gaussianTaps } from '../../image/convolve'
import { createRaster } from '../../image/raster'
import { labelled } from '../../parameter'
import { defineFill, NEVER, ownValues } from '../method'

const params = z.strictObject({
  radiusPx: labelled(z.number().min(0).max(64).default(12), {
    title: 'Radius',
    help: 'How far the picture is spread: about two deviations of the blur. 0 shows the plate.',
    unit: 'px',
    step: 0.5,
  }),
})

/** Soften: blurs what is there, the thing itself included. What other mends hold out or still have to cover stays out. */
export const soften = defineFill({
  id: 'soften',
  version: 1,
  title: 'Soften',
  summary: 'Blurs what is there: makes a mark unreadable and a surface smooth, but takes nothing away.',
  source:
    'Gaussian blur; with pixels left out, normalised convolution: H. Knutsson, C.-F. Westin, CVPR 1993.',
  params,
  needsPath: false,
  keepsThing: true,
  reach: ({ radiusPx }) => ({ marginPx: Math.ceil(1.5 * radiusPx) + 2 }),

  run(input, { radiusPx }, context) {
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'Before it began.' }
    const { picture, field, taboo } = input
    const { width, height, channels, data } = picture
    const values = ownValues(input)
    const grainKept = new Float32Array(field.count).fill(1)
    if (radiusPx < 0.5) return { ok: true, values, grainKept }
    const sigmaPx = radiusPx / 2
    const taps = gaussianTaps(sigmaPx)
    const weights = createRaster(width, height, 1)
    const weighted = { ...picture, data: data.slice() }
    weights.data.fill(1)
    for (let at = 0; taboo && at < taboo.length; at++) {
      if (taboo[at] !== NEVER) continue
      weights.data[at] = 0
      weighted.data.fill(0, at * channels, (at + 1) * channels)
    }
    const blurred = convolveSeparable(weighted, taps, taps)
    const norm = taboo ? convolveSeparable(weights, taps, taps).data : null
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'After blurring.' }
    const kept = 1 / (1 + 4 * Math.PI * sigmaPx * sigmaPx) // of white grain's variance
    for (let i = 0; i < field.count; i++) {
      if (input.wanted[i] === 0) continue
      const pixel = field.pixels[i]!
      const share = norm ? norm[pixel]! : 1
      if (share < 1e-4) continue
      for (let c = 0; c < channels; c++)
        values[i * channels + c] = blurred.data[pixel * channels + c]! / share
      grainKept[i] = kept
    }
    return { ok: true, values, grainKept }
  },
})
