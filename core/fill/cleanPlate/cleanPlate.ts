import { z } from 'zod'
import { labelled } from '../../parameter'
import { frontLayer, withoutLayer } from '../../plate/withoutLayer'
import { singleSources } from '../../plate/singleSource'
import type { GatherFrame } from '../../plate/places'
import { defineFill, type FillInput, type FillMethod } from '../method'
import type { RunContext } from '../../shot/context'
import {
  finished,
  gatherAround,
  gatherFramesOf,
  GATHER_REACH,
  toEntries,
  nothingWanted,
  steadyUnseen,
  unseenParam,
  wantedEntries,
  type EntryValues,
} from '../gathered/gatherAround'
import { tidied } from '../gathered/tidy'

const params = z.strictObject({
  before: labelled(z.int().min(0).max(240).default(24), {
    title: 'Before',
    unit: 'frames',
    help: 'How many frames back the background is gathered from.',
    step: 1,
  }),
  after: labelled(z.int().min(0).max(240).default(24), {
    title: 'After',
    unit: 'frames',
    help: 'How many frames ahead the background is gathered from.',
    step: 1,
  }),
  every: labelled(z.int().min(1).max(24).default(2), {
    title: 'Every',
    unit: 'frames',
    help: 'Only every so many frames are asked: 1 is all of them.',
    step: 1,
  }),
  combine: labelled(z.enum(['median', 'single']).default('median'), {
    title: 'Joined by',
    unit: '',
    help: 'What most frames show; or one frame for each place, with its own grain, and seams where they show least.',
    choices: { median: 'Most', single: 'One' },
  }),
  past: labelled(z.enum(['mends', 'front']).default('mends'), {
    title: 'Looks past',
    unit: '',
    help: 'What mends cover on other frames; or also the layer of the scene that is seen here, wherever it goes.',
    choices: { mends: 'Mends', front: 'What is here' },
  }),
  unseen: unseenParam,
  tidyPx: labelled(z.number().min(0).max(64).default(0), {
    title: 'Tidy outline',
    unit: 'px',
    help: 'So far outside the outline the thing is looked for; only what differs from the background is replaced. 0 keeps the outline as drawn.',
    step: 1,
  }),
})
export type CleanPlateParams = z.output<typeof params>

/**
 * Clean plate: what other frames really saw behind the thing.
 *
 * Frames around are registered by the scene's motion and on the plate around the area, relit to this frame, and
 * joined place by place. What no frame saw is left to a fill from nearby.
 */
export const cleanPlate: FillMethod = defineFill<typeof params, unknown>({
  id: 'clean-plate',
  version: 1,
  title: 'Clean plate',
  summary:
    'Gathers what is behind the thing from frames that show it. Real pixels, in the light of this frame; gains nothing where camera and thing both rest.',
  source:
    'Robust temporal medians and plane sweeps: R. T. Collins, CVPR 1996; M. Granados et al., "Background inpainting for videos", ECCV 2012.',
  params,
  needsPath: false,
  hasDraft: true,
  reach: () => GATHER_REACH,
  widensPx: ({ tidyPx }) => tidyPx,
  steady: {
    ...steadyUnseen,
    gathers: ({ before, after, every }, frame, { firstFrame, lastFrame }) => {
      const frames: number[] = []
      for (
        let other = Math.max(firstFrame, frame - before);
        other <= Math.min(lastFrame, frame + after);
        other++
      ) {
        // Counted from the plate's first frame, so that neighbouring frames gather from the same ones.
        if (other !== frame && (other - firstFrame) % every === 0) frames.push(other)
      }
      return { frames, motion: 'scene' }
    },
  },

  run(input, { combine, past, unseen, tidyPx }, context, prepared = []) {
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'Before it began.' }
    const wanted = wantedEntries(input)
    const frames = framesPast(past, input, wanted, gatherFramesOf(prepared))
    if (wanted.length === 0) return nothingWanted(input)
    const found = findThing(input, wanted, frames, tidyPx, context)
    const hidden = found ? entriesWhere(wanted, (entry) => found[entry]! > 0) : wanted
    if (hidden.length === 0) return { ...nothingWanted(input), needed: found! }
    const gathered = gatherAround(input, hidden, frames, AS_SCENE, context, combine === 'single')
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'While gathering.' }
    const { field, picture } = input
    const pixelsOf = () => hidden.map((entry) => field.pixels[entry]!)
    const entries = toEntries(
      input,
      hidden,
      gathered,
      gathered && combine === 'single' ? singleSources(gathered, pixelsOf(), picture.width) : gathered,
    )
    const needed =
      found ?? (tidyPx > 0 && gathered ? tidyOf(input, entries, gathered.grainDeviations, tidyPx) : null)
    return finished(
      found ? { ...input, wanted: product(found, input.wanted) } : input,
      entries,
      unseen,
      context,
      needed,
    )
  },
})

/** The frames, without the layer that is seen here where that is wanted. */
function framesPast(
  past: CleanPlateParams['past'],
  { field, layerMap, rect }: FillInput,
  wanted: Int32Array,
  frames: readonly GatherFrame[],
): readonly GatherFrame[] {
  if (past === 'mends') return frames
  const layer = frontLayer(
    layerMap,
    wanted.map((entry) => field.pixels[entry]!),
    rect,
  )
  return layer === null ? frames : frames.map((frame) => withoutLayer(frame, layer))
}

const AS_SCENE = { registers: true, relights: true } as const
/** Smaller areas are gathered at once. */
const MANY_PX = 20_000
/** Frames that the thing is told from its background by. */
const FINDING_FRAMES = 6

/**
 * Of a large rough area only some is the thing: a few frames tell it from its background, and only what it hides is gathered from
 * all. Null where all of it is gathered at once: small areas, and scenes in layers, that a few frames do not tell apart.
 */
function findThing(
  input: FillInput,
  wanted: Int32Array,
  frames: readonly GatherFrame[],
  tidyPx: number,
  context: RunContext,
): Float32Array | null {
  if (tidyPx === 0 || input.layerMap || wanted.length < MANY_PX || frames.length < 2 * FINDING_FRAMES)
    return null
  const step = frames.length / FINDING_FRAMES
  const few = Array.from({ length: FINDING_FRAMES }, (_, i) => frames[Math.floor((i + 0.5) * step)]!)
  const { field, picture } = input
  const asked = entriesWhere(wanted, (entry) => isAskedAt(field.pixels[entry]!, picture.width))
  const isAsked = new Uint8Array(field.count)
  for (let k = 0; k < asked.length; k++) isAsked[asked[k]!] = 1
  const gathered = gatherAround(input, asked, few, AS_SCENE, context)
  return (
    gathered && tidyOf(input, toEntries(input, asked, gathered), gathered.grainDeviations, tidyPx, isAsked)
  )
}

/** A thing is told by its neighbourhood: every second pixel, as on a draughtboard, is enough. */
function isAskedAt(pixel: number, width: number): boolean {
  const row = (pixel / width) | 0
  return ((pixel - row * width + row) & 1) === 0
}

function entriesWhere(entries: Int32Array, isMeant: (entry: number) => boolean): Int32Array {
  const out = new Int32Array(entries.length)
  let count = 0
  for (let k = 0; k < entries.length; k++) if (isMeant(entries[k]!)) out[count++] = entries[k]!
  return out.slice(0, count)
}

function product(a: ArrayLike<number>, b: ArrayLike<number>): Float32Array {
  const out = new Float32Array(a.length)
  for (let i = 0; i < out.length; i++) out[i] = a[i]! * b[i]!
  return out
}

/** The soft rim of a thing differs too little to be told: so much is added around what does. */
const TIDY_GROW_PX = 3
const TIDY_FEATHER_PX = 2

const tidyOf = (
  input: FillInput,
  { values, grainKept, isSeen }: EntryValues,
  grainDeviations: readonly number[],
  tidyPx: number,
  isAsked: Uint8Array | null = null,
): Float32Array =>
  tidied({
    input,
    values,
    grainKept,
    isSeen,
    isAsked,
    grainDeviations,
    drawnPx: input.rimPx - tidyPx,
    growPx: TIDY_GROW_PX,
    featherPx: TIDY_FEATHER_PX,
  })
