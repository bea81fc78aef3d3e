/** What fills share that take pixels from other frames: gathering, and what is said of it. */
import { gather } from '../../plate/gather'
import type { Gathered } from '../../plate/gatherInput'
import type { GatherFrame } from '../../plate/places'
import type { Registration } from '../../plate/registerFrames'
import { widestSquare } from '../../image/windows'
import { labelled } from '../../parameter'
import { z } from 'zod'
import type { FillInput, FillOutcome, FillResult, GatherReport, OtherCrop, Prepared } from '../method'
import type { RunContext } from '../../shot/context'
import { besideFramesOf, fillUnseen, prepareUnseen, UNSEEN_FILLS, type UnseenFill } from './unseen'

/** Plate around the area by which frames are registered, px. */
const AROUND_PX = 40
/** Between pixels it is read so far beyond. */
const FOOTPRINT_PX = 4
export const GATHER_REACH = { marginPx: AROUND_PX + FOOTPRINT_PX, aroundPx: AROUND_PX } as const

/** What fills places that were not to be had: the same setting of every such fill. */
export const unseenParam = labelled(z.enum(UNSEEN_FILLS).default('texture'), {
  title: 'Never seen',
  unit: '',
  help: 'What fills places that no frame shows.',
  choices: { texture: 'Texture', membrane: 'Membrane', near: 'Near', median: 'Median', across: 'Across' },
})

/** Brings the light of what is taken to that of its new place, or leaves it: the same setting of every such fill. */
export const lightParam = labelled(z.enum(['agreed', 'own']).default('agreed'), {
  title: 'Light',
  unit: '',
  help: 'Brought to the brightness and colour around the area, place by place; or left as it is.',
  choices: { agreed: 'Agreed', own: 'As it is' },
})

/** What such fills want of frames beside: what their near fill wants. The frames gathered from are theirs to say. */
export const steadyUnseen = {
  wants: ({ unseen }: { readonly unseen: UnseenFill }) => ({
    besideFrames: besideFramesOf(unseen),
    anchor: false,
    clear: false,
  }),
  prepare: (input: FillInput, { unseen }: { readonly unseen: UnseenFill }, context: RunContext) =>
    prepareUnseen(unseen, input, context),
} as const

/** A frame that was prepared, for gathering. */
export const gatherFramesOf = (prepared: readonly Prepared[]): GatherFrame[] =>
  prepared
    .filter(({ purpose }) => purpose === 'gather')
    .map((one) => gatherFrameOf(one as Prepared<OtherCrop>))

function gatherFrameOf({
  frame,
  value,
  layersFromHere,
  groundFromHere,
  layerMap,
}: Prepared<OtherCrop>): GatherFrame {
  return { frame, ...value, layersFromHere: layersFromHere ?? [groundFromHere], layerMap: layerMap ?? null }
}

/** Entries of the field that are wanted. */
export const wantedEntries = (input: FillInput): Int32Array =>
  entriesWhere(input, (i) => input.wanted[i]! > 0)

function entriesWhere({ field }: FillInput, isAsked: (entry: number) => boolean): Int32Array {
  const entries = new Int32Array(field.count)
  let count = 0
  for (let i = 0; i < field.count; i++) if (isAsked(i)) entries[count++] = i
  return entries.slice(0, count)
}

/** @returns null when there is no frame, none fits, or it was stopped. */
export function gatherAround(
  input: FillInput,
  hidden: Int32Array,
  frames: readonly GatherFrame[],
  registration: Registration,
  context: RunContext,
  keepsReadings = false,
): Gathered | null {
  if (frames.length === 0) return null
  const { field, outerPx, picture, rect, frame, layerMap, around } = input
  const pixelsOf = (entries: Int32Array) => entries.map((entry) => field.pixels[entry]!)
  return gather({
    frame,
    picture,
    rect,
    hidden: pixelsOf(hidden),
    depths: Float32Array.from(hidden, (entry) => outerPx - field.edges[entry]!),
    around,
    rim: registration.registers ? pixelsOf(rimEntries(input)) : new Int32Array(0),
    frames,
    layerMap,
    registration,
    keepsReadings,
    shouldStop: () => context.shouldStop(),
  })
}

/** Every second entry just outside the area, as on a draughtboard: enough to be compared. */
function rimEntries(input: FillInput): Int32Array {
  const { field, outerPx, taboo, picture } = input
  return entriesWhere(input, (i) => {
    const [edge, pixel] = [field.edges[i]!, field.pixels[i]!]
    if (!(edge > outerPx) || edge > outerPx + RIM_PX || (taboo !== null && taboo[pixel] !== 0)) return false
    return isOnBoard(pixel, picture.width)
  })
}

const isOnBoard = (pixel: number, width: number): boolean =>
  ((pixel % width) + Math.floor(pixel / width)) % 2 === 0

/** Plate next to the area on which other frames are compared with this one, px. */
const RIM_PX = 6

export const nothingWanted = ({ field, picture }: FillInput): FillResult => ({
  ok: true,
  values: new Float32Array(field.count * picture.channels),
  grainKept: new Float32Array(field.count).fill(1),
})

/** What was gathered, entry by entry of the field. */
export interface EntryValues {
  readonly values: Float32Array
  readonly grainKept: Float32Array
  /** 1 where a frame showed it. */
  readonly isSeen: Uint8Array
  /** What is said of it, as far as it is needed. */
  report(needed: Float32Array | null): GatherReport
  readonly layers: Uint8Array | null
}

/** What was gathered of the hidden entries, at their places in the field. @param chosen  Values in place of the gathered ones. */
export function toEntries(
  input: FillInput,
  hidden: Int32Array,
  gathered: Gathered | null,
  chosen: Pick<Gathered, 'values' | 'variance' | 'from'> | null = gathered,
): EntryValues {
  const { field, picture } = input
  const { channels } = picture
  const values = new Float32Array(field.count * channels)
  const grainKept = new Float32Array(field.count)
  const isSeen = new Uint8Array(field.count)
  const seen = new Float32Array(field.count).fill(-1)
  const from = new Int32Array(field.count).fill(-1)
  const layers = gathered && input.layerMap ? new Uint8Array(field.count) : null
  hidden.forEach((entry, k) => {
    seen[entry] = gathered ? gathered.seen[k]! : 0
    if (layers) layers[entry] = gathered!.layers[k]!
    if (!chosen || seen[entry] === 0) return
    isSeen[entry] = 1
    from[entry] = chosen.from[k]!
    grainKept[entry] = Math.min(1, chosen.variance[k]!)
    for (let c = 0; c < channels; c++) values[entry * channels + c] = chosen.values[k * channels + c]!
  })
  const report = (needed: Float32Array | null) => reportOf(input, gathered, hidden, seen, from, needed)
  return { values, grainKept, isSeen, layers, report }
}

/** What was gathered, with what no frame showed filled from nearby; pending where that fill looks at frames beside. */
export function finished(
  input: FillInput,
  entries: EntryValues,
  unseen: UnseenFill,
  context: RunContext,
  needed: Float32Array | null = null,
): FillOutcome {
  const { values, grainKept, isSeen, layers, report } = entries
  const finish = (beside: readonly Prepared[]): FillResult => {
    const problem = fillUnseen(input, unseen, values, grainKept, isSeen, layers, context, beside)
    return problem ?? { ok: true, values, grainKept, ...(needed ? { needed } : {}), gathered: report(needed) }
  }
  const isComplete = !isSeen.some((seen, i) => seen === 0 && input.wanted[i]! > 0)
  return isComplete || besideFramesOf(unseen) === 0 ? finish([]) : { finish }
}

/** Frames that agree less than this about a place show something passing through it. */
const GHOST_BELOW = 0.5

function reportOf(
  { field, picture }: FillInput,
  gathered: Gathered | null,
  hidden: Int32Array,
  seen: Float32Array,
  from: Int32Array,
  needed: Float32Array | null,
): GatherReport {
  let [asked, shown, ghosts] = [0, 0, 0]
  const isUnseen = new Uint8Array(picture.width * picture.height)
  hidden.forEach((entry, k) => {
    if (needed && needed[entry] === 0) return
    asked++
    if (!gathered || gathered.seen[k] === 0) isUnseen[field.pixels[entry]!] = 1
    else {
      shown++
      if (gathered.seen[k]! >= 3 && gathered.agree[k]! < GHOST_BELOW) ghosts++
    }
  })
  const sures = (gathered?.reports ?? []).map(({ sure }) => sure).sort((a, b) => a - b)
  return {
    seen,
    from,
    grainDeviations: gathered?.grainDeviations ?? null,
    seenShare: asked === 0 ? 1 : shown / asked,
    unseenWidePx: asked === shown ? 0 : widestSquare(isUnseen, picture.width),
    ghostShare: shown === 0 ? 0 : ghosts / shown,
    registrationSure: sures[sures.length >> 1] ?? 0,
    frames: sures.length,
  }
}
