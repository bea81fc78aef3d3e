import { z } from 'zod'
import { maximumOf } from '../../image/samples'
import { labelled } from '../../parameter'
import { defineFill, ownValues } from '../method'

const params = z.strictObject({
  behind: labelled(z.enum(['nothing', 'colour', 'still']).default('nothing'), {
    title: 'Behind',
    help: 'Nothing leaves a hole: what is handed over gets an alpha channel. Or a plain colour, or a still picture.',
    unit: '',
    choices: { nothing: 'Nothing', colour: 'Colour', still: 'Still' },
  }),
  colour: labelled(
    z
      .string()
      .regex(/^#[0-9a-f]{6}$/)
      .default('#000000'),
    {
      title: 'Colour',
      help: 'What shows behind, in the plate’s own code values.',
      unit: '',
      shownWhen: { parameter: 'behind', is: 'colour' },
    },
  ),
  still: labelled(z.string().max(300).default(''), {
    title: 'Still',
    help: 'The picture behind: one that was brought in, or a file beside the mends.',
    unit: '',
    shownWhen: { parameter: 'behind', is: 'still' },
  }),
})

/** Cut: a hole where the thing was, with nothing, a colour or a still behind it. Colours under a hole keep the plate's. */
export const cut = defineFill({
  id: 'cut',
  version: 1,
  title: 'Cut',
  summary: 'Cuts a hole: nothing behind it (alpha), a plain colour, or a still picture.',
  source: 'Common practice, no source.',
  params,
  needsPath: false,
  reach: () => ({ marginPx: 0 }),
  needsStill: ({ behind, still }) =>
    behind === 'still' && still !== '' ? { of: still, corners: null, on: null } : null,
  makesHoles: ({ behind }) => behind === 'nothing',

  run(input, { behind, colour }, context) {
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'Before it began.' }
    const { field, still, picture, wanted } = input
    const { channels } = picture
    const values = ownValues(input)
    const grainKept = new Float32Array(field.count).fill(1)
    if (behind === 'nothing') {
      const holes = new Float32Array(field.count)
      for (let i = 0; i < field.count; i++) holes[i] = wanted[i]! > 0 ? 1 : 0
      return { ok: true, values, grainKept, holes }
    }
    if (behind === 'still' && !still) {
      return {
        ok: false,
        reason: 'no-source',
        detail: 'The still that should show behind is missing. Bring one in, or choose a colour.',
      }
    }
    const plain = [1, 3, 5].map((at) => parseInt(colour.slice(at, at + 2), 16) / 255)
    for (let i = 0; i < field.count; i++) {
      if (wanted[i] === 0) continue
      const pixel = field.pixels[i]!
      for (let c = 0; c < Math.min(channels, 3); c++)
        values[i * channels + c] = still
          ? still.samples.data[pixel * still.samples.channels + c]! / maximumOf(still.samples.data)
          : plain[c]!
      // A still and a colour are finished as they are: no grain is made for them.
    }
    return { ok: true, values, grainKept }
  },
})
