/**
 * The part of a frame that a tracker works on, as a pyramid of planes.
 *
 * Level l is 2^l times smaller; positions keep the corner origin, so a place at x px of the window lies at
 * x / 2^l on level l.
 */
import { convolveSeparable } from '../image/convolve'
import { createPlane, type Plane } from '../image/raster'
import { intersectRects, wholePicture, type Rect, type Size } from '../image/rect'
import type { Samples } from '../image/samples'
import { kernels } from '../kernels/module'
import { withKernelMemory, writeWithKernel } from '../kernels/memory'
import { trackerPlane, type TrackerInput } from './input'

export interface FrameWindow {
  readonly rect: Rect
  /** Size of the full picture. */
  readonly picture: Size
  readonly levels: readonly Plane[]
}

/** The smallest side at which a level is still worth having. */
const SMALLEST_LEVEL_PX = 12

const SOFTEN = [0.25, 0.5, 0.25] // tames the error of reading between pixels; Burt and Adelson, 1983

/** Builds the pyramid of a window. @param levels  How many at most, 1 or more. */
export function openWindow(
  samples: Samples,
  rect: Rect,
  picture: Size,
  input: TrackerInput,
  levels: number,
): FrameWindow {
  const base = convolveSeparable({ ...trackerPlane(samples, input), channels: 1 }, SOFTEN, SOFTEN)
  const planes: Plane[] = [base]
  while (planes.length < levels) {
    const last = planes[planes.length - 1]!
    if (Math.min(last.width, last.height) < 2 * SMALLEST_LEVEL_PX) break
    planes.push(halved(last))
  }
  return { rect, picture, levels: planes }
}

/** Half the size, each pixel the (1 3 3 1) / 8 mean around its place. */
export function halved(plane: Plane): Plane {
  const out = createPlane((plane.width + 1) >> 1, (plane.height + 1) >> 1)
  withKernelMemory(plane.data.byteLength * 2 + out.data.byteLength + 64, (scope) => {
    const from = scope.pointerTo(plane.data)
    const scratch = scope.take(out.width * plane.height)
    writeWithKernel(scope, out.data, (to) =>
      kernels().halvePlane(from, plane.width, plane.height, scratch.byteOffset, to),
    )
  })
  return out
}

const GRID_PX = 32 // windows lie on a grid, so that nearby ones are found in a cache

/** The window of the picture within `reachPx` around a box; null when it lies outside. */
export function windowRect(
  left: number,
  top: number,
  right: number,
  bottom: number,
  reachPx: number,
  picture: Size,
): Rect | null {
  const col = Math.floor((left - reachPx) / GRID_PX) * GRID_PX
  const row = Math.floor((top - reachPx) / GRID_PX) * GRID_PX
  const width = Math.ceil((right + reachPx - col) / GRID_PX) * GRID_PX
  const height = Math.ceil((bottom + reachPx - row) / GRID_PX) * GRID_PX
  const rect = intersectRects({ col, row, width, height }, wholePicture(picture))
  return rect && rect.width >= SMALLEST_LEVEL_PX && rect.height >= SMALLEST_LEVEL_PX ? rect : null
}

const WORKING_BYTES = 4 * 1024 * 1024 // templates and sums of one alignment at a time

/** Runs `work` with the planes in kernel memory, so that many alignments copy them once. */
export function withResidentWindow<T>(window: FrameWindow, work: (window: FrameWindow) => T): T {
  const bytes = window.levels.reduce((sum, plane) => sum + plane.data.byteLength + 16, WORKING_BYTES)
  return withKernelMemory(bytes, (scope) => {
    const levels = window.levels.map((plane) => {
      if (plane.data.buffer === kernels().memory.buffer) return plane
      const data = scope.take(plane.data.length)
      data.set(plane.data)
      return { ...plane, data }
    })
    return work({ ...window, levels })
  })
}
