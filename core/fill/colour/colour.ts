import { z } from 'zod'
import { labelled } from '../../parameter'
import { defineFill } from '../method'

const channel = (title: string) =>
  labelled(z.number().min(0).max(1).default(0.5), {
    title,
    help: 'In the plate’s own encoding: 0 nothing, 1 as much as it can hold.',
    unit: '',
    step: 0.01,
  })

const params = z.strictObject({ red: channel('Red'), green: channel('Green'), blue: channel('Blue') })

/** Luma weights. Source: ITU-R BT.709-6, item 3.2. */
const LUMA = [0.2126, 0.7152, 0.0722] as const

/** Colour: one plain colour. */
export const colour = defineFill({
  id: 'colour',
  version: 1,
  title: 'Colour',
  summary: 'One plain colour, with the grain of what is around: for flat surfaces, and to block things in.',
  source: 'Common practice, no source.',
  params,
  needsPath: false,
  reach: () => ({ marginPx: 0 }),

  run({ field: { count }, picture: { channels }, wanted }, { red, green, blue }, { shouldStop }) {
    if (shouldStop()) return { ok: false, reason: 'stopped', detail: 'Before it began.' }
    const grey = LUMA[0] * red + LUMA[1] * green + LUMA[2] * blue
    const own = channels >= 3 ? [red, green, blue] : [grey]
    const values = new Float32Array(count * channels)
    for (let i = 0; i < count; i++)
      if (wanted[i]! > 0) for (let c = 0; c < channels; c++) values[i * channels + c] = own[c] ?? 1
    return { ok: true, values, grainKept: new Float32Array(count) }
  },
})
