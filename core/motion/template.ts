/**
 * A piece of one frame, found again in another: inverse-compositional registration.
 *
 * A template keeps values, steepest-descent values and weights of its places, relative to its origin.
 * Aligning moves a 3 × 3 matrix `windowFromTemplate` until the plane read through it looks like the
 * template, up to a gain and an offset: exposure may change.
 * Source: Baker and Matthews, "Lucas-Kanade 20 years on: a unifying framework", IJCV 56(3), 2004.
 */
import { solveSymmetric } from '../geometry/linear'
import { compose, invert, normalised, type Matrix3 } from '../geometry/transform'
import type { MotionModel } from '../geometry/estimate'
import type { Plane } from '../image/raster'
import { kernels } from '../kernels/module'
import { withKernelMemory } from '../kernels/memory'

export interface Template {
  readonly model: MotionModel
  readonly count: number
  /** x, y pairs relative to the origin, in px of the level. */
  readonly places: Float32Array
  readonly values: Float32Array
  readonly weights: Float32Array
  /** `parameters` values for each place. */
  readonly descent: Float32Array
  readonly parameters: number
  /** Upper triangle of the normal matrix with the plain weights. */
  readonly normal: Float64Array
  /** Deviation of the values: a flat template says nothing. */
  readonly deviation: number
  /** Smaller eigenvalue of the mean gradient matrix, per place. */
  readonly cornerness: number
}

export const PARAMETERS: Readonly<Record<MotionModel, number>> = {
  translation: 2,
  similarity: 4,
  affine: 6,
  perspective: 8,
}

/**
 * Cuts a template out of a plane.
 *
 * @param places  Whole-pixel centres work best: they need no reading between pixels. Relative to the origin.
 * @param unitPx  Lengths inside the model are counted in this many px, so that its unknowns are of one size.
 */
export function cutTemplate(
  plane: Plane,
  originX: number,
  originY: number,
  places: Float32Array,
  weights: Float32Array,
  model: MotionModel,
  unitPx: number,
): Template {
  const count = weights.length
  const parameters = PARAMETERS[model]
  const values = new Float32Array(count)
  const descent = new Float32Array(count * parameters)
  const q = parameters + 2
  const normal = new Float64Array((q * (q + 1)) / 2)
  const row = new Float64Array(q)
  let [sw, sv, svv, gxx, gxy, gyy] = [0, 0, 0, 0, 0, 0]
  for (let i = 0; i < count; i++) {
    const [x, y] = [places[2 * i]!, places[2 * i + 1]!]
    const [px, py] = [originX + x, originY + y]
    const value = readAt(plane, px, py)
    const gx = (readAt(plane, px + 1, py) - readAt(plane, px - 1, py)) / 2
    const gy = (readAt(plane, px, py + 1) - readAt(plane, px, py - 1)) / 2
    values[i] = value
    descentInto(row, model, gx, gy, x / unitPx, y / unitPx, unitPx)
    descent.set(row.subarray(0, parameters), i * parameters)
    row[parameters] = value
    row[parameters + 1] = 1
    const w = weights[i]!
    for (let r = 0, at = 0; r < q; r++) for (let s = r; s < q; s++) normal[at++]! += w * row[r]! * row[s]!
    sw += w
    sv += w * value
    svv += w * value * value
    gxx += w * gx * gx
    gxy += w * gx * gy
    gyy += w * gy * gy
  }
  const trace = (gxx + gyy) / (2 * sw)
  const spread = Math.sqrt(((gxx - gyy) / (2 * sw)) * ((gxx - gyy) / (2 * sw)) + (gxy / sw) * (gxy / sw))
  const deviation = Math.sqrt(Math.max(0, svv / sw - (sv / sw) * (sv / sw)))
  return {
    model,
    count,
    places,
    values,
    weights,
    descent,
    parameters,
    normal,
    deviation,
    cornerness: trace - spread,
  }
}

/** The derivative of the template's value by each unknown: gradient times derivative of the warp. */
function descentInto(
  row: Float64Array,
  model: MotionModel,
  gx: number,
  gy: number,
  x: number,
  y: number,
  unitPx: number,
): void {
  if (model === 'translation' || model === 'similarity') {
    row[0] = gx
    row[1] = gy
    if (model === 'translation') return
    row[2] = (gx * x + gy * y) * unitPx
    row[3] = (gy * x - gx * y) * unitPx
    return
  }
  row[0] = gx * x * unitPx
  row[1] = gx * y * unitPx
  row[2] = gx
  row[3] = gy * x * unitPx
  row[4] = gy * y * unitPx
  row[5] = gy
  if (model === 'affine') return
  const pull = -(gx * x + gy * y) * unitPx
  row[6] = pull * x
  row[7] = pull * y
}

/** The small warp that a step stands for. */
function warpOf(model: MotionModel, d: ArrayLike<number>, gain: number, unitPx: number): Matrix3 {
  const s = (i: number) => d[i]! / gain
  switch (model) {
    case 'translation':
      return [1, 0, s(0), 0, 1, s(1), 0, 0, 1]
    case 'similarity':
      return [1 + s(2), -s(3), s(0), s(3), 1 + s(2), s(1), 0, 0, 1]
    case 'affine':
      return [1 + s(0), s(1), s(2), s(3), 1 + s(4), s(5), 0, 0, 1]
    case 'perspective':
      return [1 + s(0), s(1), s(2), s(3), 1 + s(4), s(5), s(6) / unitPx, s(7) / unitPx, 1]
  }
}

function readAt({ width, height, data }: Plane, x: number, y: number): number {
  const u = Math.min(Math.max(x - 0.5, 0), width - 1)
  const v = Math.min(Math.max(y - 0.5, 0), height - 1)
  const col = Math.min(Math.floor(u), width - 2)
  const row = Math.min(Math.floor(v), height - 2)
  const [fu, fv] = [u - col, v - row]
  const at = row * width + col
  const top = data[at]! + fu * (data[at + 1]! - data[at]!)
  const bottom = data[at + width]! + fu * (data[at + width + 1]! - data[at + width]!)
  return top + fv * (bottom - top)
}

export interface Alignment {
  readonly windowFromTemplate: Matrix3
  readonly gain: number
  readonly offset: number
  /** Normalised correlation of template and plane at the end, −1 to 1. */
  readonly correlation: number
  /** Root mean square difference after gain and offset. */
  readonly residual: number
  /** Share of the template's weight that lies inside the plane. */
  readonly inside: number
  /** Px by which the last step still moved the origin. */
  readonly lastStepPx: number
}

export interface AlignOptions {
  readonly iterations: number
  /** Differences from this on have no say, in the plane's scale; absent: every place counts alike. */
  readonly robustScale?: number
  readonly unitPx: number
}

const ENOUGH_PX = 0.004 // steps below this no longer show

/**
 * Moves the template over the plane until they agree.
 * @returns null when the template does not fix the model or the steps ran away.
 * Cost: iterations × places × (parameters + 2); squared in the unknowns where robust.
 */
export function alignTemplate(
  template: Template,
  plane: Plane,
  start: Matrix3,
  options: AlignOptions,
): Alignment | null {
  const { parameters, count } = template
  const q = parameters + 2
  const isRobust = options.robustScale !== undefined
  const triangle = (q * (q + 1)) / 2
  const bytes = plane.data.byteLength + count * 4 * (4 + parameters) + 72 + (triangle + q + 8) * 8
  return withKernelMemory(bytes, (scope) => {
    const source = scope.pointerTo(plane.data)
    const places = scope.pointerTo(template.places)
    const values = scope.pointerTo(template.values)
    const weights = scope.pointerTo(template.weights)
    const descent = scope.pointerTo(template.descent)
    const matrixAt = scope.pointerTo(new Float64Array(9))
    const outAt = scope.pointerTo(new Float64Array(triangle + q + 8))
    const { buffer } = kernels().memory
    const matrixCell = new Float64Array(buffer, matrixAt, 9)
    const out = new Float64Array(buffer, outAt, triangle + q + 8)
    const base = isRobust ? triangle : 0
    let matrix = start
    let [gain, offset, lastStepPx] = [1, 0, Infinity]
    const step = (robust: boolean) => {
      matrixCell.set(matrix)
      kernels().alignStep(
        source,
        plane.width,
        plane.height,
        matrixAt,
        count,
        places,
        values,
        weights,
        descent,
        parameters,
        gain,
        offset,
        robust,
        options.robustScale ?? 1,
        outAt,
      )
    }
    // Gain and offset first: without them the first step of a robust fit would see only outliers.
    step(false)
    ;[gain, offset] = toneOf(out.subarray(q), gain, offset)
    for (let i = 0; i < options.iterations; i++) {
      step(isRobust)
      const normal = isRobust ? out.subarray(0, triangle) : template.normal
      const solved = solveSymmetric(normal, out.subarray(base, base + q))
      if (!solved) return null
      const inverse = invert(warpOf(template.model, solved, gain, options.unitPx))
      if (!inverse) return null
      const next = normalised(compose(matrix, inverse))
      lastStepPx = Math.sqrt(
        (next[2] - matrix[2]) * (next[2] - matrix[2]) + (next[5] - matrix[5]) * (next[5] - matrix[5]),
      )
      matrix = next
      gain = Math.min(Math.max(gain + solved[parameters]!, 0.05), 20)
      offset += solved[parameters + 1]!
      if (!matrix.every(Number.isFinite)) return null
      if (lastStepPx < ENOUGH_PX && i > 0) break
    }
    step(false)
    return { windowFromTemplate: matrix, gain, offset, lastStepPx, ...agreementOf(out.subarray(q)) }
  })
}

/** Gain and offset by regression of the plane on the template, from the kernel's sums. */
function toneOf(sums: Float64Array, gain: number, offset: number): [number, number] {
  const [, st, si, stt, , sti, , inside] = sums as unknown as number[]
  const variance = stt! - (st! * st!) / inside!
  if (!(variance > 1e-12)) return [gain, offset]
  const slope = (sti! - (st! * si!) / inside!) / variance
  const bounded = Math.min(Math.max(slope, 0.2), 5)
  return [bounded, (si! - bounded * st!) / inside!]
}

function agreementOf(sums: Float64Array) {
  const [sw, st, si, stt, sii, sti, see, inside] = sums as unknown as [
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
  ]
  const varT = stt - (st * st) / inside
  const varI = sii - (si * si) / inside
  const correlation = varT > 1e-12 && varI > 1e-12 ? (sti - (st * si) / inside) / Math.sqrt(varT * varI) : 0
  return { correlation, residual: Math.sqrt(Math.max(0, see / inside)), inside: inside / sw }
}

/** The best of many shifts by correlation: finds again what a step-wise alignment would miss. */
export function searchTemplate(
  template: Template,
  plane: Plane,
  start: Matrix3,
  reachPx: number,
  stepPx: number,
) {
  const bytes = plane.data.byteLength + template.count * 16 + 72 + 24
  return withKernelMemory(bytes, (scope) => {
    const outAt = scope.pointerTo(new Float64Array(3))
    kernels().searchShift(
      scope.pointerTo(plane.data),
      plane.width,
      plane.height,
      scope.pointerTo(Float64Array.from(start)),
      template.count,
      scope.pointerTo(template.places),
      scope.pointerTo(template.values),
      scope.pointerTo(template.weights),
      Math.ceil(reachPx / stepPx),
      stepPx,
      outAt,
    )
    const [dx, dy, correlation] = new Float64Array(kernels().memory.buffer, outAt, 3)
    return { dx: dx!, dy: dy!, correlation: correlation! }
  })
}
