/**
 * Reading a raster between its pixels.
 *
 * Coordinates are continuous (see `raster.ts`): reading at (col + 0.5, row + 0.5) gives that pixel
 * exactly. Beyond the outermost centres the edge pixel repeats. Positions are 32-bit floats.
 */
import type { Matrix3 } from '../geometry/transform'
import { kernels } from '../kernels/module'
import { type KernelScope, withKernelMemory, writeWithKernel } from '../kernels/memory'
import { createRaster, pointerToPart, type Raster } from './raster'
import { growRect, intersectRects, rectAround, wholePicture, type Rect, type Size } from './rect'

export type Interpolation = 'bilinear' | 'bicubic'

/**
 * Reads many positions at once.
 *
 * Bicubic is the interpolating cubic with a = −1/2: exact on quadratics, overshoots at hard edges.
 *
 * @param target  `positions.length / 2 * channels` floats, in the raster's own scale, not clamped.
 * @param positions  x, y pairs in px.
 * Cost: 4 (bilinear) or 16 (bicubic) reads per channel and position; no allocation when `target` and
 * the raster lie in kernel memory.
 * Source: R. Keys, "Cubic convolution interpolation for digital image processing", IEEE Trans. ASSP
 * 29(6), 1981. Checked against a plain twin and opencv-js (sample.test.ts).
 */
export function sampleManyInto(
  target: Float32Array,
  raster: Raster,
  positions: Float32Array,
  interpolation: Interpolation,
  scope: KernelScope,
): void {
  const count = positions.length / 2
  if (target.length !== count * raster.channels) {
    throw new RangeError(`target must hold ${count * raster.channels} values. Received ${target.length}`)
  }
  const gather = interpolation === 'bicubic' ? kernels().gatherBicubic : kernels().gatherBilinear
  const { buffer } = kernels().memory
  const isThere = raster.data.buffer === buffer || positions.buffer === buffer
  const part = isThere ? wholePicture(raster) : partRead(raster, positions)
  const { width, height } = part
  const source = pointerToPart(raster, part, scope)
  const xy = scope.pointerTo(positions)
  if (part.col > 0 || part.row > 0) movePositions(xy, count, part)
  writeWithKernel(scope, target, (to) => gather(source, width, height, raster.channels, xy, count, to))
}

/** Reading between pixels looks so far. */
const BETWEEN_PX = 2

/** The part of a raster that positions are read from; beyond its edges the edge pixel repeats. */
function partRead(size: Size, positions: Float32Array): Rect {
  const whole = wholePicture(size)
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
  for (let i = 0; i < positions.length; i += 2) {
    const [x, y] = [positions[i]!, positions[i + 1]!]
    if (x < left) left = x
    if (x > right) right = x
    if (y < top) top = y
    if (y > bottom) bottom = y
  }
  if (!(left <= right && top <= bottom)) return whole
  return intersectRects(growRect(rectAround(left, top, right, bottom), BETWEEN_PX), whole) ?? whole
}

/** Positions in kernel memory, seen from a part of the raster. The caller's own stay as they are. */
function movePositions(at: number, count: number, { col, row }: Rect): void {
  const xy = new Float32Array(kernels().memory.buffer, at, 2 * count)
  for (let i = 0; i < xy.length; i += 2) {
    xy[i] = xy[i]! - col
    xy[i + 1] = xy[i + 1]! - row
  }
}

/**
 * A raster seen through a projective transform.
 *
 * @param sourceFromTarget  Takes a position in the new picture to the position it shows in the old.
 */
export function warpProjective(
  raster: Raster,
  sourceFromTarget: Matrix3,
  size: { readonly width: number; readonly height: number },
  interpolation: Interpolation,
): Raster {
  const out = createRaster(size.width, size.height, raster.channels)
  withKernelMemory(raster.data.byteLength + out.data.byteLength + 72, (scope) => {
    const source = scope.pointerTo(raster.data)
    const matrix = scope.pointerTo(Float64Array.from(sourceFromTarget))
    const isCubic = interpolation === 'bicubic'
    writeWithKernel(scope, out.data, (to) =>
      kernels().warpProjective(
        source,
        raster.width,
        raster.height,
        raster.channels,
        to,
        out.width,
        out.height,
        matrix,
        isCubic,
      ),
    )
  })
  return out
}
