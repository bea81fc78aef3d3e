import { z } from 'zod'
import { cos, sin } from '../../kernels/exact'
import { labelled } from '../../parameter'
import { defineFill, type FillInput, type FillResult } from '../method'
import { withKernelMemory, type KernelScope } from '../../kernels/memory'
import { kernels } from '../../kernels/module'
import {
  courseRowsOf,
  matchMemory,
  matchSides,
  prepareMatch,
  type MatchBeside,
  type ShiftRange,
  type SideMatch,
} from './match'
import { columnsOf, readStrips, stripMemory, type DirectionAt, type Strips, type StripSource } from './strips'

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
      const { source, range } = sidesOf(input, settings)
      const memory = stripMemory(source) + matchMemory({ ...source, columns: columnsOf(source.curve) }, range)
      return withKernelMemory(memory, (scope) => prepareMatch(readStrips(source, scope), range, scope))
    },
  },

  run(input, settings, context, prepared = []) {
    if (!input.path) throw new TypeError('Across needs a path')
    const beside = prepared.map(({ value }) => value)
    const { source, range } = sidesOf(input, settings)
    const size = { ...source, columns: columnsOf(source.curve) }
    const costBytes = beside.reduce((sum, { costs }) => sum + costs.costs.byteLength + 16, 0)
    const fieldBytes = input.field.count * 4 * (FIELD_PLANES + input.picture.channels) + 4096
    const memory = stripMemory(source) + matchMemory(size, range) + costBytes + fieldBytes
    return withKernelMemory(memory, (scope) => {
      const strips = readStrips(source, scope)
      if (context.shouldStop())
        return { ok: false, reason: 'stopped', detail: 'After sampling the two sides.' }
      if (!strips.left.isSeen.includes(1) && !strips.right.isSeen.includes(1)) return NOTHING_KNOWN
      const match = matchSides(strips, range, beside, scope)
      if (context.shouldStop())
        return { ok: false, reason: 'stopped', detail: 'After matching the two sides.' }
      return continueSides(input, settings, strips, match, scope)
    })
  },
})

const NOTHING_KNOWN: FillResult = {
  ok: false,
  reason: 'nothing-known',
  detail:
    'Neither side of the path may be sampled: other mends, holdouts or the picture’s edge are in the way.',
}

/** Planes of the field that the kernel reads, and the one of grain that it writes. */
const FIELD_PLANES = 8

/** Both sides continued into the area, pixel by pixel. The loop is in `kernels/assembly/strips.ts`. */
function continueSides(
  { path, wanted, rimPx, field: { count } }: FillInput,
  settings: Settings,
  { columns, rows, channels, left, right }: Strips,
  { shifts, agreement }: SideMatch,
  scope: KernelScope,
): FillResult {
  const { distances, tangentXs, tangentYs, halfWidths, arcs } = path!.field
  const values = scope.floats(count * channels).fill(0)
  const grainKept = scope.floats(count).fill(0)
  const fixed = fixedDirection(settings) ?? { x: 0, y: 0 }
  const lean = leanOf(settings)
  const { meet, echo, reachPx } = settings
  const numbers = [fixed.x, fixed.y, lean.cos, lean.sin, rimPx, meet, echo, reachPx, WIDEN, MIN_CROSSING]
  const at = (data: Float32Array | Uint8Array) => scope.pointerTo(data)
  const asked = wanted instanceof Float32Array ? wanted : Float32Array.from(wanted)
  // prettier-ignore
  kernels().continueSides(
    count, at(asked), at(distances), at(tangentXs), at(tangentYs), at(halfWidths), at(arcs),
    left.strips, right.strips, columns, rows, at(left.isSeen), at(right.isSeen),
    at(shifts), at(agreement), at(Float32Array.from(numbers)), channels, values.byteOffset, grainKept.byteOffset,
  )
  return { ok: true, values: values.slice(), grainKept: grainKept.slice() }
}

/** Both sides of the path, as far out as it may sample, and never less than the feather reaches. */
function sidesOf(
  { picture, taboo, rect, pictureSize, path, rimPx, outerPx }: FillInput,
  settings: Settings,
): { readonly source: StripSource; readonly range: ShiftRange } {
  const { curve } = path!
  // Narrowed by more than it is wide, nothing is left of it: the two sides meet.
  const gapPx = Math.max(1, 2 * (Math.max(...curve.widths) / 2 + rimPx) + 1)
  const rows = Math.max(
    courseRowsOf(gapPx) + 1,
    Math.ceil(settings.reachPx),
    Math.ceil((outerPx - rimPx) / MIN_CROSSING) + 1,
  )
  const maxShift = settings.lean === 'auto' ? Math.min(MAX_SHIFT_PX, Math.ceil(MAX_SLANT * gapPx)) : 0
  return {
    source: { picture, taboo, rect, pictureSize, curve, rimPx, rows, directionAt: chooseDirection(settings) },
    range: { maxShift, gapPx },
  }
}

/** The direction looked along, for a place's tangent; it always points to the right of the path. */
function chooseDirection(settings: Settings): DirectionAt {
  const fixed = fixedDirection(settings)
  const lean = leanOf(settings)
  const look = { x: 0, y: 0, crossing: 1 }
  return (tangentX, tangentY) => {
    const normalX = -tangentY
    const normalY = tangentX
    const baseX = fixed ? fixed.x : normalX
    const baseY = fixed ? fixed.y : normalY
    look.x = baseX * lean.cos - baseY * lean.sin
    look.y = baseX * lean.sin + baseY * lean.cos
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

/** How far the direction is tilted. */
function leanOf({ lean, leanDeg }: Settings): { readonly cos: number; readonly sin: number } {
  const angle = lean === 'own' ? (leanDeg * Math.PI) / 180 : 0
  return { cos: cos(angle), sin: sin(angle) }
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
