/** Places that no frame showed, filled from nearby: from what was gathered around them and the plate around that. */
import { across } from '../across/across'
import { either } from '../either/either'
import { median } from '../median/median'
import { membrane } from '../membrane/membrane'
import { near } from '../near/near'
import { texture } from '../texture/texture'
import { forEachCell } from '../../scene/layerMap'
import {
  completed,
  FREE,
  NEVER,
  type FillInput,
  type FillMethod,
  type FillResult,
  type Prepared,
} from '../method'
import { cutToPart, type CutInput } from '../pathPart'
import type { PathPart } from '../method'
import type { RunContext } from '../../shot/context'

export const UNSEEN_FILLS = ['texture', 'membrane', 'near', 'median', 'across', 'either'] as const
export type UnseenFill = (typeof UNSEEN_FILLS)[number]
const METHODS: Readonly<Record<UnseenFill, FillMethod>> = { texture, membrane, near, median, across, either }

/** Fewer than this are stretched over: no texture can be told from them. */
const MIN_FOR_TEXTURE = 24

/** How many frames to either side a near fill looks at for steadiness, whenever it has something to fill. */
export const besideFramesOf = (fill: UnseenFill): number =>
  METHODS[fill].steady?.wants(METHODS[fill].params.parse({})).besideFrames ?? 0

const marginOf = (method: FillMethod, { path, outerPx }: FillInput): number => {
  const halfPx = path ? path.curve.widths.reduce((max, width) => Math.max(max, width), 0) / 2 + outerPx : 0
  return method.reach(method.params.parse({}), halfPx).marginPx
}

/** What a near fill makes of a frame beside: for each part of the path, where only parts are asked for. */
export function prepareUnseen(
  fill: UnseenFill,
  input: FillInput,
  parts: readonly PathPart[] | null,
  context: RunContext,
): readonly unknown[] | null {
  const method = METHODS[fill]
  if (!method.steady || (method.needsPath && !input.path)) return null
  const looked = parts ? parts.map((part) => cutToPart(input, part, marginOf(method, input)).input) : [input]
  return looked.map((one) => method.steady!.prepare(one, method.params.parse({}), context, 'beside'))
}

/** What was gathered so far, entry by entry: added to. */
export interface SeenEntries {
  readonly values: Float32Array
  readonly grainKept: Float32Array
  /** 1 for each entry whose value is known. */
  readonly isSeen: Uint8Array
  /** The layer of each entry, where the scene has several. */
  readonly layers: Uint8Array | null
}

/**
 * @param missing  Entries to be filled. @param parts  Those of the path that they lie on, where that is not all of it.
 * @param beside  What `prepareUnseen` made of frames beside, of the same parts.
 * @returns What went wrong; null when every wanted entry has its value.
 */
export function fillUnseen(
  whole: FillInput,
  fill: UnseenFill,
  seen: SeenEntries,
  missing: Int32Array,
  parts: readonly PathPart[] | null,
  context: RunContext,
  beside: readonly Prepared[] = [],
): Extract<FillResult, { ok: false }> | null {
  if (missing.length === 0) return null
  const needsPath = METHODS[fill].needsPath && !whole.path
  const isOwn = !needsPath && missing.length >= MIN_FOR_TEXTURE
  const method = isOwn ? METHODS[fill] : membrane
  if (!parts || !method.needsPath) {
    const cut = { input: askedOf(whole, seen, missing), entries: null }
    return fillPart(cut, method, seen, context, isOwn ? besideOf(beside, 0) : [])
  }
  const marginPx = marginOf(method, whole)
  for (const [at, part] of parts.entries()) {
    const some = entriesOfPart(whole, missing, part)
    const cut = cutToPart(askedOf(whole, seen, some), part, marginPx)
    const problem = fillPart(cut, method, seen, context, besideOf(beside, at))
    if (problem?.reason !== 'nothing-known') {
      if (problem) return problem
      continue
    }
    // Hardly anything of its layer is seen beside so short a part: then whatever is beside it is stretched over it.
    const plain = cutToPart(askedOf(whole, { ...seen, layers: null }, some), part, marginPx)
    const stretched = fillPart(plain, membrane, seen, context, [])
    if (stretched) return stretched
  }
  return null
}

/** What was prepared on frames beside for one of the parts. */
const besideOf = (beside: readonly Prepared[], part: number): Prepared[] =>
  beside
    .map((one) => ({ ...one, value: (one.value as readonly unknown[])[part] }))
    .filter(({ value }) => value !== null && value !== undefined)

function fillPart(
  { input, entries }: CutInput,
  method: FillMethod,
  seen: SeenEntries,
  context: RunContext,
  beside: readonly Prepared[],
): Extract<FillResult, { ok: false }> | null {
  const laid = { ...input, picture: withGathered(input, entries, seen) }
  const result = completed(method.run(laid, method.params.parse({}), context, beside))
  if (!result.ok) return result
  const { channels } = input.picture
  for (let i = 0; i < input.field.count; i++) {
    if (input.wanted[i] === 0) continue
    const to = entries ? entries[i]! : i
    for (let c = 0; c < channels; c++) seen.values[to * channels + c] = result.values[i * channels + c]!
    seen.grainKept[to] = result.grainKept[i]!
  }
  return null
}

/** Plate is so far outside the area that nothing is matched or blended there on its behalf, px. */
const OUTSIDE_PX = 8

/** What a near fill is given: what is missing is the area, all else is plate. */
function askedOf(whole: FillInput, { layers }: SeenEntries, missing: Int32Array): FillInput {
  const wanted = new Float32Array(whole.field.count)
  const edges = whole.field.edges.map((edge) => Math.max(edge, whole.outerPx + OUTSIDE_PX))
  for (const entry of missing) {
    wanted[entry] = 1
    edges[entry] = Math.min(whole.field.edges[entry]!, whole.rimPx - 1)
  }
  const taboo = layers ? otherLayers(whole, layers, missing) : whole.taboo
  return { ...whole, taboo, wanted, field: { ...whole.field, edges } }
}

/** The entries that lie on a part of the path. */
function entriesOfPart({ path }: FillInput, entries: Int32Array, { from, to }: PathPart): Int32Array {
  const { curve, field } = path!
  return entries.filter((entry) => {
    const share = field.arcs[entry]! / curve.lengthPx
    return (share >= from || from === 0) && (share < to || to === 1)
  })
}

/** A copy of the picture with what was gathered laid in. */
function withGathered(
  { picture, field }: FillInput,
  entries: Int32Array | null,
  { values, isSeen }: SeenEntries,
): FillInput['picture'] {
  const { channels } = picture
  const data = picture.data.slice()
  for (let i = 0; i < field.count; i++) {
    const from = entries ? entries[i]! : i
    if (isSeen[from] === 0) continue
    for (let c = 0; c < channels; c++) data[field.pixels[i]! * channels + c] = values[from * channels + c]!
  }
  return { ...picture, data }
}

/** Pixels of other layers than most of what is missing: a wall has nothing to say about the floor before it. */
function otherLayers(
  { taboo, layerMap, field, picture, rect, wanted }: FillInput,
  layers: Uint8Array,
  missing: Int32Array,
): Uint8Array | null {
  const counts = new Map<number, number>()
  for (const entry of missing) counts.set(layers[entry]!, (counts.get(layers[entry]!) ?? 0) + 1)
  const [max] = [...counts].sort((a, b) => b[1] - a[1] || a[0] - b[0])
  if (!layerMap || !max) return taboo
  const out = taboo ? taboo.slice() : new Uint8Array(picture.width * picture.height)
  forEachCell(layerMap, rect, (label, begin, end) => {
    if (label !== max[0]) out.fill(NEVER, begin, end)
  })
  for (let i = 0; i < field.count; i++)
    if (wanted[i]! > 0) out[field.pixels[i]!] = layers[i] === max[0] ? FREE : NEVER
  return out
}
