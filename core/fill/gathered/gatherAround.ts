/** What fills share that take pixels from other frames: gathering, and what is said of it. */
import { gather } from '../../plate/gather'
import type { Gathered } from '../../plate/gatherInput'
import type { GatherFrame } from '../../plate/places'
import type { Registration } from '../../plate/registerFrames'
import { widestSquare } from '../../image/windows'
import { labelled } from '../../parameter'
import { z } from 'zod'
import type {
  FillInput,
  FillOutcome,
  FillResult,
  FramePurpose,
  GatherReport,
  OtherCrop,
  Prepared,
} from '../method'
import type { PathPart } from '../method'
import { partsOfPath } from '../pathPart'
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
  choices: {
    texture: 'Texture',
    membrane: 'Membrane',
    near: 'Near',
    median: 'Median',
    across: 'Across',
    either: 'Either',
  },
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
  prepare: (
    input: FillInput,
    { unseen }: { readonly unseen: UnseenFill },
    context: RunContext,
    _purpose: FramePurpose,
    parts: readonly PathPart[] | null = null,
  ) => prepareUnseen(unseen, input, parts, context),
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
export function wantedEntries({ field, wanted }: FillInput): Int32Array {
  const entries = new Int32Array(field.count)
  let count = 0
  for (let i = 0; i < field.count; i++) if (wanted[i]! > 0) entries[count++] = i
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
  const [pixels, depths] = [new Int32Array(hidden.length), new Float32Array(hidden.length)]
  for (let k = 0; k < hidden.length; k++) {
    pixels[k] = field.pixels[hidden[k]!]!
    depths[k] = outerPx - field.edges[hidden[k]!]!
  }
  return gather({
    frame,
    picture,
    rect,
    hidden: pixels,
    depths,
    around,
    rim: registration.registers ? rimPixels(input) : new Int32Array(0),
    frames,
    layerMap,
    registration,
    keepsReadings,
    shouldStop: () => context.shouldStop(),
    onProgress: (done, total) => context.onProgress?.(done, total),
  })
}

/** Every second pixel just outside the area, as on a draughtboard: enough to be compared. */
function rimPixels({ field, outerPx, taboo, picture: { width } }: FillInput): Int32Array {
  const { count, edges, pixels } = field
  const out = new Int32Array(count)
  let found = 0
  for (let i = 0; i < count; i++) {
    if (!(edges[i]! > outerPx) || edges[i]! > outerPx + RIM_PX) continue
    const pixel = pixels[i]!
    const row = (pixel / width) | 0
    if (((pixel - row * width + row) & 1) === 1 || (taboo !== null && taboo[pixel] !== 0)) continue
    out[found++] = pixel
  }
  return out.slice(0, found)
}

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
  /** What is said of it, as far as it is needed; null where nothing is. */
  report(needed: Float32Array | null): GatherReport | null
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
  for (let k = 0; k < hidden.length; k++) {
    const entry = hidden[k]!
    seen[entry] = gathered ? gathered.seen[k]! : 0
    if (layers) layers[entry] = gathered!.layers[k]!
    if (!chosen || seen[entry] === 0) continue
    isSeen[entry] = 1
    from[entry] = chosen.from[k]!
    grainKept[entry] = Math.min(1, chosen.variance[k]!)
    for (let c = 0; c < channels; c++) values[entry * channels + c] = chosen.values[k * channels + c]!
  }
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
  const missing = missingOf(input, isSeen)
  const parts = partsOfPath(input, missing)
  const finish = (beside: readonly Prepared[]): FillResult => {
    const made = { values, grainKept, isSeen, layers }
    const problem = fillUnseen(input, unseen, made, missing, parts, context, beside)
    const gathered = report(needed)
    return (
      problem ?? { ok: true, values, grainKept, ...(needed && { needed }), ...(gathered && { gathered }) }
    )
  }
  return missing.length === 0 || besideFramesOf(unseen) === 0
    ? finish([])
    : { wants: 'beside', parts, finish }
}

/** Wanted entries that no frame showed. */
function missingOf({ field, wanted }: FillInput, isSeen: Uint8Array): Int32Array {
  const missing = new Int32Array(field.count)
  let count = 0
  for (let i = 0; i < field.count; i++) if (wanted[i]! > 0 && isSeen[i] === 0) missing[count++] = i
  return missing.slice(0, count)
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
  for (let k = 0; k < hidden.length; k++) {
    const entry = hidden[k]!
    if (needed && needed[entry] === 0) continue
    asked++
    if (!gathered || gathered.seen[k] === 0) isUnseen[field.pixels[entry]!] = 1
    else {
      shown++
      if (gathered.seen[k]! >= 3 && gathered.agree[k]! < GHOST_BELOW) ghosts++
    }
  }
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
    weighed: null,
  }
}
