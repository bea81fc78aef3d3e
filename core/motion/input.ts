/**
 * What a tracker looks at: one plane made from the picture. The picture itself is never changed.
 */
import { z } from 'zod'
import { convolveSeparable, gaussianTaps } from '../image/convolve'
import { createPlane, type Plane } from '../image/raster'
import { maximumOf, type Samples } from '../image/samples'
import { kernels } from '../kernels/module'
import { withKernelMemory, writeWithKernel } from '../kernels/memory'
import { labelled } from '../parameter'

export const trackerInputSchema = z.strictObject({
  channel: labelled(z.enum(['all', 'red', 'green', 'blue']).default('all'), {
    title: 'Looks at',
    help: 'Which part of the picture the tracker sees.',
    unit: '',
    choices: { all: 'All', red: 'Red', green: 'Green', blue: 'Blue' },
  }),
  boost: labelled(z.number().min(0).max(1).default(0), {
    title: 'Boost',
    help: 'Evens out local contrast for the tracker only: 0 leaves it, 1 lifts faint detail fully.',
    unit: '',
    step: 0.05,
  }),
  degrainPx: labelled(z.number().min(0).max(4).default(0), {
    title: 'De-grain',
    help: 'Blurs what the tracker sees, against heavy grain.',
    unit: 'px',
    step: 0.1,
  }),
})
export type TrackerInput = z.output<typeof trackerInputSchema>

// All three alike: grain is independent in each, so their mean has the least of it.
const WEIGHTS = { all: [1 / 3, 1 / 3, 1 / 3], red: [1, 0, 0], green: [0, 1, 0], blue: [0, 0, 1] } as const

const BOOST_RADIUS_PX = 12 // local contrast is judged over about two patch widths
const BOOST_FLOOR = 0.01 // below this deviation there is only grain to lift

/** The plane a tracker works on. Cost: one pass, and two convolutions for boost or de-grain. */
export function trackerPlane(samples: Samples, { channel, boost, degrainPx }: TrackerInput): Plane {
  const [red, green, blue] = WEIGHTS[channel]
  const plane = createPlane(samples.width, samples.height)
  const maximum = maximumOf(samples.data)
  withKernelMemory(samples.data.byteLength + plane.data.byteLength, (scope) => {
    const from = scope.pointerTo(samples.data)
    const is16 = samples.data.BYTES_PER_ELEMENT === 2
    writeWithKernel(scope, plane.data, (to) =>
      kernels().planeFromSamples(
        from,
        is16,
        plane.data.length,
        samples.channels,
        red,
        green,
        blue,
        1 / maximum,
        to,
      ),
    )
  })
  const smoothed = degrainPx > 0 ? blur(plane, degrainPx) : plane
  return boost > 0 ? boostContrast(smoothed, boost) : smoothed
}

function blur(plane: Plane, sigmaPx: number): Plane {
  const taps = gaussianTaps(sigmaPx)
  return convolveSeparable({ ...plane, channels: 1 }, taps, taps)
}

/** Divides by the local deviation and moves the local mean to the middle, mixed in by `amount`. */
function boostContrast(plane: Plane, amount: number): Plane {
  const mean = blur(plane, BOOST_RADIUS_PX)
  const squares = blur(
    { ...plane, data: plane.data.map((value, i) => (value - mean.data[i]!) * (value - mean.data[i]!)) },
    BOOST_RADIUS_PX,
  )
  const data = plane.data.map((value, i) => {
    const lifted = 0.5 + (0.2 * (value - mean.data[i]!)) / (Math.sqrt(squares.data[i]!) + BOOST_FLOOR)
    return value + amount * (lifted - value)
  })
  return { ...plane, data }
}
