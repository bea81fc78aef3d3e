import { z } from 'zod'
import { exposureCurve } from '../../finish/tone'
import { labelled } from '../../parameter'
import { defineFill, ownValues } from '../method'

const params = z.strictObject({
  stops: labelled(z.number().min(-4).max(4).default(0.25), {
    title: 'Light',
    help: 'Brightens by so many stops of light; below 0 it darkens.',
    unit: 'stops',
    step: 0.05,
  }),
})

/** Light: more or less light on what is there. */
export const light = defineFill({
  id: 'light',
  version: 1,
  title: 'Light',
  summary: 'Brightens or darkens what is there, by stops of light. Nothing is replaced.',
  source: 'A factor on linear light, IEC 61966-2-1; common practice.',
  params,
  needsPath: false,
  hidesNothing: true,
  keepsThing: true,
  reach: () => ({ marginPx: 0 }),

  run(input, { stops }, { shouldStop }) {
    if (shouldStop()) return { ok: false, reason: 'stopped', detail: 'Before it began.' }
    const values = ownValues(input)
    const curve = exposureCurve(stops)
    const colours = Math.min(3, input.picture.channels)
    for (let i = 0; curve && i < input.field.count; i++) {
      if (input.wanted[i] === 0) continue
      const at = i * input.picture.channels
      for (let c = 0; c < colours; c++) values[at + c] = Math.min(1, curve(values[at + c]!))
    }
    return { ok: true, values, grainKept: new Float32Array(input.field.count).fill(1) }
  },
})
