import { z } from 'zod'
import { apply, IDENTITY, invert, type Matrix3 } from '../../geometry/transform'
import type { Raster } from '../../image/raster'
import type { Rect } from '../../image/rect'
import { sampleManyInto } from '../../image/sample'
import { withKernelMemory } from '../../kernels/memory'
import { labelled } from '../../parameter'
import {
  defineFill,
  FREE,
  isTrouble,
  knownPixels,
  NEVER,
  ownValues,
  type FillInput,
  type FillMethod,
  type FillResult,
} from '../method'
import type { RunContext } from '../../shot/context'
import { bridgeUnread } from '../readSource'
import { finestLevel } from './levels'
import { synthesise } from './synthesise'

const params = z.strictObject({
  patchPx: labelled(z.int().min(3).max(41).default(17), {
    title: 'Patch',
    help: 'Side of the pieces that are compared: about as large as what repeats, a tile or a stone.',
    unit: 'px',
    step: 2,
  }),
  search: labelled(z.enum(['near', 'frame']).default('near'), {
    title: 'Search',
    help: 'Where similar places are looked for: around the area, or in the whole frame.',
    unit: '',
    choices: { near: 'Near', frame: 'Whole frame' },
  }),
  searchPx: labelled(z.int().min(16).max(600).default(100), {
    title: 'Search to',
    help: 'How far around the area it looks.',
    unit: 'px',
    step: 10,
    shownWhen: { parameter: 'search', is: 'near' },
  }),
  seed: labelled(z.int().min(0).max(9999).default(1), {
    title: 'Seed',
    help: 'Another number gives another result that is as good.',
    unit: '',
    step: 1,
  }),
})

type Settings = z.output<typeof params>

/** What was worked out once: where every place of the area is taken from, on the anchor frame. */
interface Woven {
  readonly rect: Rect
  /** For each pixel of the rectangle the index of its target, or −1. */
  readonly indexOf: Int32Array
  readonly shifts: Int16Array
  readonly shares: Float32Array
  /** What it looks like on the anchor frame: for sources that something hides on another. */
  readonly colours: Float32Array
}

const BLEND_PX = 2 // matched this far beyond the coverage, so that a slip of the motion finds an answer

/**
 * Texture: rebuilds the area from similar places around it.
 *
 * Where each place is taken from is worked out once, on one frame of the span, for all that the area covers during
 * it, and rides on the ground from then on: the result stays put. Every frame takes its own pixels from there, with
 * their own light and grain.
 */
export const texture: FillMethod = defineFill<typeof params, Woven>({
  id: 'texture',
  version: 2,
  title: 'Texture',
  summary:
    'Rebuilds texture from similar places around: tiles, cobbles, leaves, boards. Invents what is not there; faces and letters it cannot know.',
  source:
    'Y. Wexler et al., IEEE Trans. PAMI 29(3), 2007; C. Barnes et al., "PatchMatch", ACM Trans. Graphics 28(3), 2009.',
  params,
  needsPath: false,
  hasDraft: true,
  reach: ({ search, searchPx, patchPx }) => ({
    marginPx: search === 'frame' ? 100_000 : searchPx + patchPx,
    ringPx: BLEND_PX,
  }),
  steady: {
    wants: () => ({ besideFrames: 0, anchor: true, clear: false }),
    prepare: (input, settings, context) => {
      const woven = weave(input, settings, context)
      return 'colours' in woven ? woven : null
    },
  },

  run(input, settings, context, prepared = []) {
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'Before it began.' }
    const anchor = prepared.find(({ purpose }) => purpose === 'anchor')
    if (anchor) return lay(input, anchor.value, anchor.groundFromHere)
    const woven = weave(input, settings, context)
    return 'colours' in woven ? lay(input, woven, IDENTITY) : woven
  },
})

function weave(
  input: FillInput,
  settings: Settings,
  context: RunContext,
): Woven | Extract<FillResult, { ok: false }> {
  const { picture, rect, field, taboo, outerPx } = input
  const { width, height, channels } = picture
  const radius = Math.max(1, (settings.patchPx - 1) >> 1)
  const isHole = new Uint8Array(width * height)
  const isTarget = new Uint8Array(width * height)
  const isUsable = new Uint8Array(width * height).fill(1)
  for (let at = 0; taboo && at < taboo.length; at++) if (taboo[at] !== FREE) isUsable[at] = 0
  for (let i = 0; i < field.count; i++) {
    const pixel = field.pixels[i]!
    if (isTrouble(input, i)) {
      isHole[pixel] = 1
      isUsable[pixel] = 0
    }
    if (field.edges[i]! <= outerPx + BLEND_PX) isTarget[pixel] = 1
  }
  if (taboo) addStrangers(isHole, isTarget, taboo, width, height, radius)
  const done = synthesise(
    finestLevel(picture, isHole, isTarget, isUsable),
    { radius, seed: settings.seed * 104729 + input.seed, isDraft: context.isDraft === true },
    () => context.shouldStop(),
  )
  if (done === 'stopped') return { ok: false, reason: 'stopped', detail: 'While matching.' }
  if (done === 'nothing-known') {
    return {
      ok: false,
      reason: 'nothing-known',
      detail: 'No whole patch around the area is free. Search further, or make the patch smaller.',
    }
  }
  const indexOf = new Int32Array(width * height).fill(-1)
  const colours = new Float32Array(done.targets.length * channels)
  done.targets.forEach((pixel, k) => {
    indexOf[pixel] = k
    for (let place = 0; place < 3; place++) {
      const from = pixel + done.shifts[6 * k + 2 * place]! + done.shifts[6 * k + 2 * place + 1]! * width
      for (let c = 0; c < channels; c++)
        colours[k * channels + c]! += done.shares[3 * k + place]! * picture.data[from * channels + c]!
    }
  })
  return { rect, indexOf, shifts: done.shifts, shares: done.shares, colours }
}

/** Other mends' places next to the area are unknown too: patches there are not judged by what stands in them. */
function addStrangers(
  isHole: Uint8Array,
  isTarget: Uint8Array,
  taboo: Uint8Array,
  width: number,
  height: number,
  radius: number,
): void {
  const reach = 2 * radius
  const before = isTarget.slice()
  for (let at = 0; at < before.length; at++) {
    if (before[at] === 0) continue
    const [col, row] = [at % width, (at / width) | 0]
    for (let y = Math.max(0, row - reach); y <= Math.min(height - 1, row + reach); y++) {
      for (let x = Math.max(0, col - reach); x <= Math.min(width - 1, col + reach); x++) {
        const other = y * width + x
        if (taboo[other] === FREE || isHole[other] === 1) continue
        isHole[other] = 1
        isTarget[other] = 1
      }
    }
  }
}

/** The picture at places, x and y interleaved, px of the crop. Where none lies between pixels the samples themselves. */
function readPlaces(picture: Raster, places: readonly number[]): Float32Array {
  const { width, channels, data } = picture
  const readings = new Float32Array((places.length / 2) * channels)
  if (places.length === 0) return readings
  if (places.every(isCentre)) {
    for (let n = 0; n < places.length / 2; n++) {
      const at = (Math.floor(places[2 * n + 1]!) * width + Math.floor(places[2 * n]!)) * channels
      for (let c = 0; c < channels; c++) readings[n * channels + c] = data[at + c]!
    }
    return readings
  }
  withKernelMemory(data.byteLength + places.length * 4 + readings.byteLength + 4096, (scope) =>
    sampleManyInto(readings, picture, Float32Array.from(places), 'bicubic', scope),
  )
  return readings
}

const SNAP_PX = 1e-3

function lay(input: FillInput, woven: Woven, anchorFromHere: Matrix3): FillResult {
  const { picture, rect, pictureSize, field, wanted, taboo } = input
  const { width, height, channels } = picture
  const values = ownValues(input)
  const grainKept = new Float32Array(field.count).fill(1)
  const hereFromAnchor = invert(anchorFromHere) ?? IDENTITY
  const isLaid = new Uint8Array(field.count).fill(1)
  const isOwn = new Uint8Array(width * height)
  for (let i = 0; i < field.count; i++) if (isTrouble(input, i)) isOwn[field.pixels[i]!] = 1
  const mayTake = (x: number, y: number): boolean => {
    if (!(x >= 0 && y >= 0 && x < pictureSize.width && y < pictureSize.height)) return false
    const [col, row] = [Math.floor(x) - rect.col, Math.floor(y) - rect.row]
    if (col < 0 || row < 0 || col >= width || row >= height) return false
    const at = row * width + col
    return isOwn[at] === 0 && (!taboo || taboo[at] !== NEVER)
  }
  const mix: ShiftMix = {
    count: 0,
    nearest: 0,
    xs: new Float32Array(12),
    ys: new Float32Array(12),
    shares: new Float32Array(12),
  }
  // First where everything is read, then one reading of all: entry, share and place of each.
  const entries: number[] = []
  const shares: number[] = []
  const places: number[] = []
  for (let i = 0; i < field.count; i++) {
    if (wanted[i] === 0) continue
    const pixel = field.pixels[i]!
    const there = apply(
      anchorFromHere,
      rect.col + (pixel % width) + 0.5,
      rect.row + ((pixel / width) | 0) + 0.5,
    )
    if (!gatherShifts(mix, woven, there.x, there.y)) continue // beyond what was matched: the plate itself
    // In a corner of the picture no whole patch may reach a place.
    if (mix.count === 0) {
      if (isTrouble(input, i)) isLaid[i] = 0
      continue
    }
    let total = 0
    const begin = entries.length
    for (let n = 0; n < mix.count; n++) {
      if (mix.shares[n]! < MIN_SHARE) continue
      const from = apply(hereFromAnchor, there.x + mix.xs[n]!, there.y + mix.ys[n]!)
      if (!mayTake(from.x, from.y)) continue
      entries.push(i)
      shares.push(mix.shares[n]!)
      places.push(snap(from.x - rect.col), snap(from.y - rect.row))
      total += mix.shares[n]!
    }
    for (let n = begin; n < entries.length; n++) shares[n]! /= total
    if (total === 0)
      for (let c = 0; c < channels; c++) values[i * channels + c] = woven.colours[mix.nearest * channels + c]!
  }
  const readings = readPlaces(picture, places)
  for (let n = 0; n < entries.length; n++) {
    const i = entries[n]!
    const isFirst = n === 0 || entries[n - 1] !== i
    if (isFirst) {
      values.fill(0, i * channels, (i + 1) * channels)
      grainKept[i] = 0
    }
    const isWhole = isCentre(places[2 * n]!) && isCentre(places[2 * n + 1]!)
    grainKept[i]! += shares[n]! * shares[n]! * (isWhole ? 1 : READ_BETWEEN)
    for (let c = 0; c < channels; c++) values[i * channels + c]! += shares[n]! * readings[n * channels + c]!
  }
  if (isLaid.includes(0)) bridgeUnread(input, values, isLaid, grainKept, knownPixels(input))
  return { ok: true, values, grainKept }
}

const snap = (at: number): number => {
  const nearest = Math.floor(at) + 0.5
  return Math.abs(at - nearest) < SNAP_PX ? nearest : at
}
const isCentre = (at: number): boolean => at - Math.floor(at) === 0.5
/** Share of white grain's variance that the cubic leaves on average over all fractions, both ways. */
const READ_BETWEEN = 0.66

/** A shift that counts for less is left out. */
const MIN_SHARE = 0.02

/** The shifts at one place, and how much each counts. Filled anew for every pixel. */
interface ShiftMix {
  count: number
  /** The target that counts most. */
  nearest: number
  readonly xs: Float32Array
  readonly ys: Float32Array
  readonly shares: Float32Array
}

/**
 * The shifts at a place of the anchor frame: those of the four targets around it, blended as a picture is read between
 * its pixels, so that the borders of pieces travel smoothly with the ground. @returns false where there are none.
 */
function gatherShifts(
  mix: ShiftMix,
  { rect, indexOf, shifts, shares }: Woven,
  x: number,
  y: number,
): boolean {
  const [u, v] = [snap(x - rect.col) - 0.5, snap(y - rect.row) - 0.5]
  const [col, row] = [Math.floor(u), Math.floor(v)]
  mix.count = 0
  let max = 0
  for (let corner = 0; corner < 4; corner++) {
    const [dx, dy] = [corner & 1, corner >> 1]
    const weight = (dx === 1 ? u - col : 1 - u + col) * (dy === 1 ? v - row : 1 - v + row)
    const [c, r] = [col + dx, row + dy]
    if (weight === 0 || c < 0 || r < 0 || c >= rect.width || r >= rect.height) continue
    const k = indexOf[r * rect.width + c]!
    if (k < 0) continue
    if (weight > max) {
      max = weight
      mix.nearest = k
    }
    for (let place = 3 * k; place < 3 * k + 3; place++) {
      const share = weight * shares[place]!
      if (share === 0) continue
      const [sx, sy] = [shifts[2 * place]!, shifts[2 * place + 1]!]
      let n = 0
      while (n < mix.count && (mix.xs[n] !== sx || mix.ys[n] !== sy)) n++
      if (n === mix.count) {
        mix.xs[n] = sx
        mix.ys[n] = sy
        mix.shares[n] = 0
        mix.count++
      }
      mix.shares[n]! += share
    }
  }
  return max > 0
}
