import { z } from 'zod'
import { cos, sin } from '../../kernels/exact'
import { labelled } from '../../parameter'
import { defineFill, type FillInput } from '../method'
import {
  chooseShifts,
  courseRowsOf,
  matchSides,
  measureAgreement,
  measureSideCosts,
  type MatchBeside,
} from './match'
import { addFromSide, sampleSides, type DirectionAt, type Side } from './sides'

/**
 * Across: continues the picture from both sides of a path.
 *
 * Both sides are straightened into strips along the path and matched with each other. A covered pixel
 * lies on a line between two matching places; each side is continued along it. Where the sides agree,
 * what crosses the path goes straight on; where they do not, the view of each side widens with the
 * distance from it, as a smooth surface through the rim would. Detail lost by that is mirrored in from
 * outside ("echo"). The two continuations are blended by how near their sides are.
 *
 * Symbols: d distance from the centreline, u the direction looked along, n the path's normal; along u
 * the pixel lies at t = d / (u·n) and the rims at ±rim.
 */
const params = z.strictObject({
  direction: labelled(z.enum(['square', 'level', 'upright', 'own']).default('square'), {
    title: 'Direction',
    help: 'Where the replacement comes from: square to the path, from left and right, from above and below, or at an angle of your own.',
    unit: '',
    choices: { square: 'Square', level: 'Level', upright: 'Upright', own: 'Own' },
  }),
  angleDeg: labelled(z.number().min(-90).max(90).default(0), {
    title: 'Angle',
    help: '0° looks left and right; positive angles turn clockwise.',
    unit: '°',
    step: 1,
    shownWhen: { parameter: 'direction', is: 'own' },
  }),
  lean: labelled(z.enum(['auto', 'own']).default('auto'), {
    title: 'Lean',
    help: 'Auto joins edges that cross the wire at an angle; own tilts the direction by a fixed angle.',
    unit: '',
    choices: { auto: 'Auto', own: 'Own' },
  }),
  leanDeg: labelled(z.number().min(-60).max(60).default(0), {
    title: 'Lean by',
    help: 'Tilts the direction; positive angles turn clockwise.',
    unit: '°',
    step: 1,
    shownWhen: { parameter: 'lean', is: 'own' },
  }),
  reachPx: labelled(z.number().min(1).max(64).default(6), {
    title: 'Reach',
    help: 'How far out from the area it samples.',
    unit: 'px',
    step: 0.5,
  }),
  meet: labelled(z.number().min(0).max(1).default(1), {
    title: 'Meet',
    help: 'How the two sides overlap: 0 is a seam in the middle, 1 a blend over the whole width.',
    unit: '',
    step: 0.01,
  }),
  echo: labelled(z.number().min(0).max(1).default(0.5), {
    title: 'Echo',
    help: '0 continues the plain colour of each edge, 1 mirrors its texture.',
    unit: '',
    step: 0.01,
  }),
})

type Settings = z.output<typeof params>

const MIN_CROSSING = 0.35 // u·n; a flatter direction runs along the path and meets no rim nearby
const MAX_SHIFT_PX = 128
const MAX_SLANT = 1.8 // shift per px of gap: edges up to 61° off the direction are joined
const WIDEN = 0.7 // how fast the view of a side widens with the distance from it, as a smooth surface's does

/** Frames to either side whose matching has the same say. */
const BESIDE_FRAMES = 2

export const across = defineFill<typeof params, MatchBeside>({
  id: 'across',
  version: 2,
  title: 'Across',
  summary:
    'Continues the picture from both sides of a wire. Good where detail runs across it; on busy detail along it the seam may show.',
  source: 'Common practice, no source; the matching of the two sides after Ohta and Kanade, 1985.',
  params,
  needsPath: true,
  reach: ({ reachPx }, halfPx) => ({
    marginPx: Math.ceil(halfPx * (1 / MIN_CROSSING - 1) + Math.max(reachPx, courseRowsOf(2 * halfPx)) + 4),
  }),

  steady: {
    wants: ({ lean }) => ({ besideFrames: lean === 'auto' ? BESIDE_FRAMES : 0, anchor: false, clear: false }),
    prepare(input, settings) {
      const { left, right, maxShift, gapPx } = readSides(input, settings)
      const costs = measureSideCosts(left.levels[1]!, right.levels[1]!, maxShift, gapPx)
      return { costs, agreement: measureAgreement(left.levels[1]!, right.levels[1]!, chooseShifts(costs)) }
    },
  },

  run(input, settings, context, prepared = []) {
    const { picture, path, wanted, rimPx } = input
    if (!path) throw new TypeError('Across needs a path')
    const { field } = path
    const { channels } = picture
    const directionAt = chooseDirection(settings)
    const { left, right, maxShift, gapPx } = readSides(input, settings)
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'After sampling the two sides.' }
    if (!left.isSeen.includes(1) && !right.isSeen.includes(1)) {
      return {
        ok: false,
        reason: 'nothing-known',
        detail:
          'Neither side of the path may be sampled: other mends, holdouts or the picture’s edge are in the way.',
      }
    }
    const beside = prepared.map(({ value }) => value)
    const match = matchSides(left.levels[1]!, right.levels[1]!, maxShift, gapPx, beside)
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'After matching the two sides.' }

    const values = new Float32Array(field.count * channels)
    const grainKept = new Float32Array(field.count)
    const mixed = new Float64Array(channels)
    const last = match.shifts.length - 1
    for (let i = 0; i < field.count; i++) {
      if (wanted[i] === 0) continue
      const look = directionAt(field.tangentXs[i]!, field.tangentYs[i]!)
      const t = field.distances[i]! / look.crossing
      const rim = (field.halfWidths[i]! + rimPx) / look.crossing
      // Where the line through the pixel meets the centreline, as a length along the path.
      const arc = field.arcs[i]! - t * (look.x * field.tangentXs[i]! + look.y * field.tangentYs[i]!)
      const column = Math.min(Math.max(Math.round(arc), 0), last)
      const share = Math.min(Math.max(0.5 + (0.5 * t) / rim, 0), 1)
      const ramp = Math.min(Math.max(0.5 + (share - 0.5) / Math.max(settings.meet, 1e-3), 0), 1)
      const isLeftSeen = left.isSeen[column] === 1
      const isRightSeen = right.isSeen[column] === 1
      const weightRight = isLeftSeen === isRightSeen ? ramp : isRightSeen ? 1 : 0
      const shift = match.shifts[column]!
      const blur = WIDEN * (1 - match.agreement[column]!)
      mixed.fill(0)
      if (weightRight < 1)
        addContinued(mixed, left, arc - share * shift, rim + t, settings, blur, 1 - weightRight)
      if (weightRight > 0)
        addContinued(mixed, right, arc + (1 - share) * shift, rim - t, settings, blur, weightRight)
      for (let channel = 0; channel < channels; channel++) values[i * channels + channel] = mixed[channel]!
      grainKept[i] = keptGrain(weightRight, rim + t, rim - t, settings.echo, blur)
    }
    return { ok: true, values, grainKept }
  },
})

/** Both sides of the path, as far out as it may sample, and never less than the feather reaches. */
function readSides(
  { picture, taboo, rect, pictureSize, path, rimPx, outerPx }: FillInput,
  settings: Settings,
) {
  const { curve } = path!
  const gapPx = 2 * (Math.max(...curve.widths) / 2 + rimPx) + 1
  const rows = Math.max(
    courseRowsOf(gapPx) + 1,
    Math.ceil(settings.reachPx),
    Math.ceil((outerPx - rimPx) / MIN_CROSSING) + 1,
  )
  const sides = sampleSides(picture, taboo, rect, pictureSize, curve, chooseDirection(settings), rimPx, rows)
  return {
    ...sides,
    gapPx,
    maxShift: settings.lean === 'auto' ? Math.min(MAX_SHIFT_PX, Math.ceil(MAX_SLANT * gapPx)) : 0,
  }
}

/**
 * Adds a side continued `depth` px into the hole (below 0: still outside, in the feather, where it is
 * the plate itself): its rim seen with a view that widens with depth, plus as much of the detail that
 * the view has lost, mirrored from outside, as `echo` says.
 */
function addContinued(
  target: Float64Array,
  side: Side,
  arc: number,
  depth: number,
  { echo, reachPx }: Settings,
  blur: number,
  weight: number,
): void {
  const smoothPx = blur * Math.max(0, depth)
  addFromSide(target, side, arc, Math.max(0, -depth), smoothPx, weight)
  if (echo === 0 || smoothPx === 0) return // nothing was lost
  const row = foldWithin(depth, Math.max(reachPx - 1, 1))
  addFromSide(target, side, arc, row, 0, weight * echo)
  addFromSide(target, side, arc, row, smoothPx, -weight * echo)
}

/** The direction looked along, for a place's tangent; it always points to the right of the path. */
function chooseDirection(settings: Settings): DirectionAt {
  const fixed = fixedDirection(settings)
  const leanRad = settings.lean === 'own' ? (settings.leanDeg * Math.PI) / 180 : 0
  const [leanCos, leanSin] = [cos(leanRad), sin(leanRad)]
  const look = { x: 0, y: 0, crossing: 1 }
  return (tangentX, tangentY) => {
    const normalX = -tangentY
    const normalY = tangentX
    const baseX = fixed ? fixed.x : normalX
    const baseY = fixed ? fixed.y : normalY
    look.x = baseX * leanCos - baseY * leanSin
    look.y = baseX * leanSin + baseY * leanCos
    look.crossing = look.x * normalX + look.y * normalY
    if (Math.abs(look.crossing) < MIN_CROSSING) {
      look.x = normalX
      look.y = normalY
      look.crossing = 1
    } else if (look.crossing < 0) {
      look.x = -look.x
      look.y = -look.y
      look.crossing = -look.crossing
    }
    return look
  }
}

/** A direction that does not turn with the path, or null for square to it. */
function fixedDirection({ direction, angleDeg }: Settings): { x: number; y: number } | null {
  switch (direction) {
    case 'square':
      return null
    case 'level':
      return { x: 1, y: 0 }
    case 'upright':
      return { x: 0, y: 1 }
    case 'own':
      return { x: cos((angleDeg * Math.PI) / 180), y: sin((angleDeg * Math.PI) / 180) }
  }
}

/** To and fro between 0 and `reach`: texture further out than that is not looked at. */
function foldWithin(distance: number, reach: number): number {
  const rest = distance % (2 * reach)
  return rest > reach ? 2 * reach - rest : rest
}

/**
 * Share of the grain's variance that a pixel still has: a view of deviation s along the path
 * averages about 2√π s pixels, mirrored detail brings back the rest by `echo`, and two sides blended lose what they do not share.
 */
function keptGrain(
  weightRight: number,
  depthLeft: number,
  depthRight: number,
  echo: number,
  blur: number,
): number {
  const weightLeft = 1 - weightRight
  return (
    weightLeft * weightLeft * keptByView(depthLeft, echo, blur) +
    weightRight * weightRight * keptByView(depthRight, echo, blur)
  )
}

function keptByView(depth: number, echo: number, blur: number): number {
  const averaged = 1 / (1 + 2 * SQRT_PI * blur * Math.max(0, depth))
  return READ_TWICE * (averaged + echo * echo * (1 - averaged))
}

const SQRT_PI = Math.sqrt(Math.PI)

// Strips are read from the picture and then between their columns: each reading between pixels keeps
// about this share of white grain's variance.
const READ_TWICE = 0.55
