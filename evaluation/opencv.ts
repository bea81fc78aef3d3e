/** The independent library that fills are compared with: Telea's and Navier-Stokes inpainting. */
import cvModule from '@techstark/opencv-js'

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
export function inpaint(cv: OpenCv, rgb: Uint8Array, width: number, height: number, hole: Uint8Array, method: Inpainting): Uint8Array {
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
