import { z } from 'zod'
import { defineFill, runEnd } from '../method'

/** Plate: shows the plate as it was read, whatever mends below have made of it. */
export const plate = defineFill({
  id: 'plate',
  version: 1,
  title: 'Plate',
  summary: 'Brings the plate back as it was, to the bit: over what mends below have done too much of.',
  source: 'Common practice, no source.',
  params: z.strictObject({}),
  needsPath: false,
  needsPlate: true,
  hidesNothing: true,
  keepsThing: true,
  reach: () => ({ marginPx: 0 }),

  run({ field: { count, pixels }, picture, plate }, _params, { shouldStop }) {
    if (shouldStop()) return { ok: false, reason: 'stopped', detail: 'Before it began.' }
    const { channels } = picture
    const { data } = plate ?? picture
    const values = new Float32Array(count * channels)
    for (let i = 0; i < count;) {
      const end = runEnd(pixels, i, count)
      const from = pixels[i]! * channels
      values.set(data.subarray(from, from + (end - i) * channels), i * channels)
      i = end
    }
    return { ok: true, values, grainKept: new Float32Array(count).fill(1) }
  },
})
