import { z } from 'zod'
import type { Raster } from '../../image/raster'
import { defineFill, type FillInput } from '../method'

const params = z.strictObject({})

const ENOUGH = 1e-6 // of the plate's scale: a hundredth of a 16-bit step
const STEPS_PER_CHECK = 16

/**
 * Membrane: the smoothest surface through the rim. Inside the area every value is the mean of its neighbours,
 * so nothing in it is brighter or darker than the rim is somewhere.
 */
export const membrane = defineFill({
  id: 'membrane',
  version: 1,
  title: 'Membrane',
  summary: 'Stretches the surrounding colour smoothly across the area. For motes, skies and plain walls; blurs texture.',
  source: 'Laplace equation on the pixel grid by conjugate gradients: Hestenes and Stiefel, 1952; any text on numerical methods.',
  params,
  needsPath: false,
  reach: () => ({ marginPx: 4 }),

  run(input, _settings, context) {
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'Before it began.' }
    const { picture, field } = input
    const grid = unknownsOf(input)
    const values = new Float32Array(field.count * picture.channels)
    const grainKept = new Float32Array(field.count).fill(1)
    for (let i = 0; i < field.count; i++) {
      for (let c = 0; c < picture.channels; c++) values[i * picture.channels + c] = picture.data[field.pixels[i]! * picture.channels + c]!
    }
    if (grid.count === 0) return { ok: true, values, grainKept }
    if (!grid.hasRim) return { ok: false, reason: 'nothing-known', detail: 'The area covers all that is there: nothing is left to stretch over it.' }
    for (let channel = 0; channel < picture.channels; channel++) {
      const solved = solveLaplace(picture, grid, channel, context.shouldStop)
      if (!solved) return { ok: false, reason: 'stopped', detail: 'While smoothing.' }
      for (let k = 0; k < grid.count; k++) values[grid.entries[k]! * picture.channels + channel] = solved[k]!
    }
    for (let k = 0; k < grid.count; k++) grainKept[grid.entries[k]!] = 0
    return { ok: true, values, grainKept }
  },
})

interface Grid {
  readonly count: number
  /** Entry of the field for each unknown. */
  readonly entries: Int32Array
  /** Four for each unknown: the index of an unknown neighbour, −1 beyond the picture, or −2 − pixel of a known one. */
  readonly neighbours: Int32Array
  readonly hasRim: boolean
}

function unknownsOf({ picture, field, coverage, rimPx }: FillInput): Grid {
  const { width, height } = picture
  const indexOf = new Int32Array(width * height).fill(-1)
  const entries = new Int32Array(field.count)
  let count = 0
  for (let i = 0; i < field.count; i++) {
    if (coverage[i] === 0 || field.edges[i]! > rimPx) continue
    indexOf[field.pixels[i]!] = count
    entries[count++] = i
  }
  const neighbours = new Int32Array(count * 4)
  let hasRim = false
  for (let k = 0; k < count; k++) {
    const pixel = field.pixels[entries[k]!]!
    const col = pixel % width
    const around = [col > 0 ? pixel - 1 : -1, col < width - 1 ? pixel + 1 : -1, pixel - width, pixel + width < width * height ? pixel + width : -1]
    for (let n = 0; n < 4; n++) {
      const at = around[n]!
      const index = at < 0 ? -1 : indexOf[at]!
      neighbours[k * 4 + n] = at < 0 ? -1 : index >= 0 ? index : -2 - at
      hasRim ||= at >= 0 && index < 0
    }
  }
  return { count, entries: entries.subarray(0, count), neighbours, hasRim }
}

/** Conjugate gradients from the rim's mean. @returns null when it was stopped. */
function solveLaplace({ channels, data }: Raster, { count, neighbours }: Grid, channel: number, shouldStop: () => boolean): Float64Array | null {
  const right = new Float64Array(count)
  const degree = new Float64Array(count)
  let [rim, rimCount] = [0, 0]
  for (let k = 0; k < count; k++) {
    for (let n = k * 4; n < k * 4 + 4; n++) {
      const at = neighbours[n]!
      if (at === -1) continue
      degree[k]!++
      if (at >= 0) continue
      const value = data[(-2 - at) * channels + channel]!
      right[k]! += value
      rim += value
      rimCount++
    }
  }
  const x = new Float64Array(count).fill(rim / rimCount)
  const product = (v: Float64Array, out: Float64Array) => {
    for (let k = 0; k < count; k++) {
      let sum = degree[k]! * v[k]!
      for (let n = k * 4; n < k * 4 + 4; n++) if (neighbours[n]! >= 0) sum -= v[neighbours[n]!]!
      out[k] = sum
    }
  }
  const along = new Float64Array(count)
  product(x, along)
  // Scaled by the diagonal, so that pixels at the picture's edge count like the others.
  const residual = right.map((value, k) => value - along[k]!)
  const direction = residual.map((value, k) => value / degree[k]!)
  let energy = residual.reduce((sum, value, k) => sum + (value * value) / degree[k]!, 0)
  const target = ENOUGH * ENOUGH * count
  for (let step = 0; energy > target && step < 4 * count; step++) {
    if (step % STEPS_PER_CHECK === 0 && shouldStop()) return null
    product(direction, along)
    let curve = 0
    for (let k = 0; k < count; k++) curve += direction[k]! * along[k]!
    const length = energy / curve
    let next = 0
    for (let k = 0; k < count; k++) {
      x[k]! += length * direction[k]!
      residual[k]! -= length * along[k]!
      next += (residual[k]! * residual[k]!) / degree[k]!
    }
    const turn = next / energy
    for (let k = 0; k < count; k++) direction[k] = residual[k]! / degree[k]! + turn * direction[k]!
    energy = next
  }
  return x
}
