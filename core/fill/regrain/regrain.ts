import { z } from 'zod'
import { labelled } from '../../parameter'
import { soften } from '../soften/soften'
import { completed, defineFill } from '../method'

const params = z.strictObject({
  radiusPx: labelled(z.number().min(0.5).max(8).default(1.5), {
    title: 'Radius',
    help: 'Finer structure than this is taken for grain and made anew.',
    unit: 'px',
    step: 0.1,
  }),
})

/** Regrain: grain made anew as it is around, for places that came out too smooth or too rough. */
export const regrain = defineFill({
  id: 'regrain',
  version: 1,
  title: 'Regrain',
  summary: 'Makes the grain anew, as it is around: where a mend has come out too smooth or too rough.',
  source: 'Common practice, no source.',
  params,
  needsPath: false,
  hidesNothing: true,
  corrects: true,
  reach: ({ radiusPx }) => soften.reach({ radiusPx }, 0),
  run: (input, { radiusPx }, context) => completed(soften.run(input, { radiusPx }, context)),
})
