import { z } from 'zod'
import { labelled } from '../../parameter'
import { gather, type Gathered } from '../../plate/gather'
import type { GatherFrame } from '../../plate/reading'
import { singleSources } from '../../plate/singleSource'
import {
  defineFill,
  type FillInput,
  type FillMethod,
  type FillResult,
  type GatherReport,
  type Prepared,
  type RunContext,
  type Surroundings,
} from '../method'
import { tidied } from './tidy'
import { fillUnseen, UNSEEN_FILLS } from './unseen'

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
  unseen: labelled(z.enum(UNSEEN_FILLS).default('texture'), {
    title: 'Never seen',
    unit: '',
    help: 'What fills places that no frame shows.',
    choices: { texture: 'Texture', membrane: 'Membrane', near: 'Near', median: 'Median', across: 'Across' },
  }),
  tidyPx: labelled(z.number().min(0).max(64).default(0), {
    title: 'Tidy outline',
    unit: 'px',
    help: 'So far outside the outline the thing is looked for; only what differs from the background is replaced. 0 keeps the outline as drawn.',
    step: 1,
  }),
})
export type CleanPlateParams = z.output<typeof params>

/** Plate around the area by which frames are laid over each other, px. */
const RING_PX = 40

/**
 * Clean plate: what other frames really saw behind the thing.
 *
 * Frames around are registered by the scene's motion and on the plate around the area, relit to this frame, and
 * joined place by place. What no frame saw is left to a fill from nearby.
 */
export const cleanPlate: FillMethod = defineFill<typeof params, Surroundings>({
  id: 'clean-plate',
  version: 1,
  title: 'Clean plate',
  summary:
    'Gathers what is behind the thing from frames that show it. Real pixels, in the light of this frame; gains nothing where camera and thing both rest.',
  source: 'Robust temporal medians and plane sweeps: R. T. Collins, CVPR 1996; M. Granados et al., "Background inpainting for videos", ECCV 2012.',
  params,
  needsPath: false,
  hasPreview: true,
  reach: () => ({ marginPx: RING_PX + 4, ringPx: RING_PX }),
  widensPx: ({ tidyPx }) => tidyPx,
  steady: {
    wants: ({ before, after, every }) => ({ besideFrames: 0, anchor: false, clear: false, gather: { before, after, every } }),
    prepare: () => null,
  },

  run(input, settings, context, prepared = []) {
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'Before it began.' }
    const frames = prepared.filter(({ purpose }) => purpose === 'gather').map(gatherFrameOf)
    const hidden = entriesWhere(input, (i) => input.wanted[i]! > 0)
    if (hidden.length === 0) return nothingWanted(input)
    const gathered = frames.length === 0 ? null : gatherAround(input, hidden, frames, context)
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'While gathering.' }
    return laidOut(input, settings, hidden, gathered, context)
  },
})

function gatherFrameOf({ frame, value, layersFromHere, groundFromHere, layerMap }: Prepared<Surroundings>): GatherFrame {
  return { frame, ...value, layersFromHere: layersFromHere ?? [groundFromHere], layerMap: layerMap ?? null }
}

function entriesWhere({ field }: FillInput, isWanted: (entry: number) => boolean): Int32Array {
  const entries = new Int32Array(field.count)
  let count = 0
  for (let i = 0; i < field.count; i++) if (isWanted(i)) entries[count++] = i
  return entries.slice(0, count)
}

function gatherAround(input: FillInput, hidden: Int32Array, frames: readonly GatherFrame[], context: RunContext): Gathered | null {
  const { field, outerPx, taboo, picture, rect, frame, layerMap } = input
  const around = entriesWhere(input, (i) => field.edges[i]! > outerPx && (taboo === null || taboo[field.pixels[i]!] === 0))
  const pixelsOf = (entries: Int32Array) => entries.map((entry) => field.pixels[entry]!)
  return gather({
    frame,
    picture,
    rect,
    hidden: pixelsOf(hidden),
    around: pixelsOf(around),
    frames,
    layerMap,
    shouldStop: () => context.shouldStop(),
  })
}

const nothingWanted = ({ field, picture }: FillInput): FillResult => ({
  ok: true,
  values: new Float32Array(field.count * picture.channels),
  grainKept: new Float32Array(field.count).fill(1),
})

function laidOut(
  input: FillInput,
  { combine, unseen, tidyPx }: CleanPlateParams,
  hidden: Int32Array,
  gathered: Gathered | null,
  context: RunContext,
): FillResult {
  const { field, picture } = input
  const { channels } = picture
  const values = new Float32Array(field.count * channels)
  const grainKept = new Float32Array(field.count)
  const isSeen = new Uint8Array(field.count)
  const seen = new Float32Array(field.count).fill(-1)
  const from = new Int32Array(field.count).fill(-1)
  const chosen =
    gathered && combine === 'single'
      ? singleSources(
          gathered,
          hidden.map((entry) => field.pixels[entry]!),
          picture.width,
        )
      : gathered
  hidden.forEach((entry, k) => {
    seen[entry] = gathered ? gathered.seen[k]! : 0
    if (!chosen || seen[entry] === 0) return
    isSeen[entry] = 1
    from[entry] = chosen.from[k]!
    grainKept[entry] = Math.min(1, chosen.variance[k]!)
    for (let c = 0; c < channels; c++) values[entry * channels + c] = chosen.values[k * channels + c]!
  })
  const layers = gathered && input.layerMap ? new Uint8Array(field.count) : null
  if (layers) hidden.forEach((entry, k) => (layers[entry] = gathered!.layers[k]!))
  const needed =
    tidyPx > 0 && gathered
      ? tidied({
          input,
          values,
          grainKept,
          isSeen,
          grainDeviations: gathered.grainDeviations,
          drawnPx: input.rimPx - tidyPx,
          growPx: TIDY_GROW_PX,
          featherPx: TIDY_FEATHER_PX,
        })
      : null
  const problem = fillUnseen(input, unseen, values, grainKept, isSeen, layers, context)
  if (problem) return problem
  return { ok: true, values, grainKept, ...(needed ? { needed } : {}), gathered: reportOf(gathered, hidden, seen, from) }
}

/** The soft rim of a thing differs too little to be told: so much is added around what does. */
const TIDY_GROW_PX = 3
const TIDY_FEATHER_PX = 2

/** Frames that agree less than this about a place show something passing through it. */
const GHOST_BELOW = 0.5

function reportOf(gathered: Gathered | null, hidden: Int32Array, seen: Float32Array, from: Int32Array): GatherReport {
  let [shown, ghosts] = [0, 0]
  hidden.forEach((_, k) => {
    if (!gathered || gathered.seen[k] === 0) return
    shown++
    if (gathered.seen[k]! >= 3 && gathered.agree[k]! < GHOST_BELOW) ghosts++
  })
  const sures = (gathered?.reports ?? []).map(({ sure }) => sure).sort((a, b) => a - b)
  return {
    seen,
    from,
    grainDeviations: gathered?.grainDeviations ?? null,
    seenShare: shown / hidden.length,
    ghostShare: shown === 0 ? 0 : ghosts / shown,
    registrationSure: sures[sures.length >> 1] ?? 0,
    frames: sures.length,
  }
}
