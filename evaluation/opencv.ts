/** The independent library that fills are compared with: Telea's and Navier-Stokes inpainting. */
import cvModule from '@techstark/opencv-js'
import type { Samples } from '../core/image/samples'

// eslint-disable-next-line @typescript-eslint/no-explicit-any -- the library's own types are incomplete
export type OpenCv = any

let loaded: Promise<{ cv: OpenCv }> | undefined

/** Always wrapped: the library has a `then` of its own that never settles when awaited bare. */
export function loadOpenCv(): Promise<{ cv: OpenCv }> {
  loaded ??= (async () => {
    const module: OpenCv = cvModule
    if (module instanceof Promise) return { cv: await module }
    if (!module.Mat) await new Promise<void>((resolve) => (module.onRuntimeInitialized = () => resolve()))
    return { cv: module }
  })()
  return loaded
}

export type Inpainting = 'telea' | 'navier-stokes'

/** Inpaints 8-bit RGB samples where `hole` is not 0. */
export function inpaint(
  cv: OpenCv,
  rgb: Uint8Array,
  width: number,
  height: number,
  hole: Uint8Array,
  method: Inpainting,
): Uint8Array {
  const source = cv.matFromArray(height, width, cv.CV_8UC3, rgb)
  const mask = cv.matFromArray(height, width, cv.CV_8UC1, hole)
  const out = new cv.Mat()
  try {
    cv.inpaint(source, mask, out, 3, method === 'telea' ? cv.INPAINT_TELEA : cv.INPAINT_NS)
    return Uint8Array.from(out.data)
  } finally {
    for (const mat of [source, mask, out]) mat.delete()
  }
}

/** A grey 8-bit picture of samples, as the library's own conversion makes it. */
function greyMat(cv: OpenCv, { width, height, data }: Samples): OpenCv {
  const colour = cv.matFromArray(height, width, cv.CV_8UC3, data)
  const grey = new cv.Mat()
  cv.cvtColor(colour, grey, cv.COLOR_RGB2GRAY)
  colour.delete()
  return grey
}

/** Pyramidal Lucas-Kanade from frame to frame, 21 px windows, 4 levels; positions keep our corner origin. */
export function trackWithOpenCv(
  cv: OpenCv,
  frames: readonly Samples[],
  places: readonly (readonly [number, number])[],
) {
  let previous = greyMat(cv, frames[0]!)
  let points = cv.matFromArray(
    places.length,
    1,
    cv.CV_32FC2,
    places.flatMap(([x, y]) => [x - 0.5, y - 0.5]),
  )
  const alive = places.map(() => true)
  const positions: (readonly [number, number] | null)[][] = [places.map(([x, y]) => [x, y] as const)]
  const criteria = new cv.TermCriteria(cv.TermCriteria_COUNT + cv.TermCriteria_EPS, 30, 0.01)
  let ms = 0
  for (let i = 1; i < frames.length; i++) {
    const next = greyMat(cv, frames[i]!)
    const [found, status, error] = [new cv.Mat(), new cv.Mat(), new cv.Mat()]
    const begun = performance.now()
    cv.calcOpticalFlowPyrLK(previous, next, points, found, status, error, new cv.Size(21, 21), 3, criteria)
    ms += performance.now() - begun
    positions.push(
      places.map((_, k) => {
        alive[k] &&= status.data[k] === 1
        return alive[k] ? ([found.data32F[2 * k] + 0.5, found.data32F[2 * k + 1] + 0.5] as const) : null
      }),
    )
    for (const mat of [previous, points, status, error]) mat.delete()
    previous = next
    points = found
  }
  previous.delete()
  points.delete()
  return { positions, ms }
}
