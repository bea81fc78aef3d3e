/** Places that no frame showed, filled from nearby: from what was gathered around them and the plate around that. */
import { across } from '../across/across'
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
import type { RunContext } from '../../shot/context'

export const UNSEEN_FILLS = ['texture', 'membrane', 'near', 'median', 'across'] as const
export type UnseenFill = (typeof UNSEEN_FILLS)[number]
const METHODS: Readonly<Record<UnseenFill, FillMethod>> = { texture, membrane, near, median, across }

/** Fewer than this are stretched over: no texture can be told from them. */
const MIN_FOR_TEXTURE = 24

/** How many frames to either side a near fill looks at for steadiness, whenever it has something to fill. */
export const besideFramesOf = (fill: UnseenFill): number =>
  METHODS[fill].steady?.wants(METHODS[fill].params.parse({})).besideFrames ?? 0

/** What a near fill makes of a frame beside. */
export function prepareUnseen(fill: UnseenFill, input: FillInput, context: RunContext): unknown {
  const method = METHODS[fill]
  if (method.needsPath && !input.path) return null
  return method.steady?.prepare(input, method.params.parse({}), context, 'beside') ?? null
}

/**
 * @param isSeen  1 for each entry whose value is known. @param layers  The layer of each entry, where the scene has several.
 * @param beside  What `prepareUnseen` made of frames beside.
 * @returns What went wrong; null when every wanted entry has its value.
 */
export function fillUnseen(
  input: FillInput,
  fill: UnseenFill,
  values: Float32Array,
  grainKept: Float32Array,
  isSeen: Uint8Array,
  layers: Uint8Array | null,
  context: RunContext,
  beside: readonly Prepared[] = [],
): Extract<FillResult, { ok: false }> | null {
  const { field, picture, wanted, path } = input
  const { channels } = picture
  const missing: number[] = []
  for (let i = 0; i < field.count; i++) if (wanted[i]! > 0 && isSeen[i] === 0) missing.push(i)
  if (missing.length === 0) return null
  const needsPath = METHODS[fill].needsPath && !path
  const method = needsPath || missing.length < MIN_FOR_TEXTURE ? membrane : METHODS[fill]
  const data = picture.data.slice()
  for (let i = 0; i < field.count; i++) {
    if (isSeen[i] === 0) continue
    const [from, to] = [i * channels, field.pixels[i]! * channels]
    for (let c = 0; c < channels; c++) data[to + c] = values[from + c]!
  }
  const edges = new Float32Array(field.count)
  // What is missing is the area now; all else is plate.
  for (let i = 0; i < field.count; i++) edges[i] = Math.max(field.edges[i]!, input.outerPx + 1)
  for (const entry of missing) edges[entry] = Math.min(field.edges[entry]!, input.rimPx - 1)
  const isMissing = new Float32Array(field.count)
  for (const entry of missing) isMissing[entry] = 1
  const taboo = layers ? otherLayers(input, layers, missing) : input.taboo
  const outcome = method.run(
    { ...input, taboo, picture: { ...picture, data }, field: { ...field, edges }, wanted: isMissing },
    method.params.parse({}),
    context,
    method === METHODS[fill] ? beside : [],
  )
  const result = completed(outcome)
  if (!result.ok) return result
  for (const entry of missing) {
    for (let c = 0; c < channels; c++) values[entry * channels + c] = result.values[entry * channels + c]!
    grainKept[entry] = result.grainKept[entry]!
  }
  return null
}

/** Pixels of other layers than most of what is missing: a wall has nothing to say about the floor before it. */
function otherLayers(
  { taboo, layerMap, field, picture, rect, wanted }: FillInput,
  layers: Uint8Array,
  missing: readonly number[],
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
