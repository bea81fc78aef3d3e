/**
 * What each fill costs on a disc 200 px across in a picture of 1920 x 1080, median in Node.
 *
 *   fill-ms          one more frame of a mend, everything included: area, source, fill, finish, measures
 *   fill-kernel-ms   the fill alone, without its steadiness over time
 *   fill-preview-ms  a first look at a frame, of fills that have one, with nothing kept from other frames
 *   fill-first-ms    the first frame in full, with nothing kept from other frames
 *   opencv-ms        what opencv-js has for the same, on the disc's bounding box; what it lacks is left out
 *   membrane-ms      discs of a quarter, one and four times that area: linear cost shows as a constant us-per-px
 */
import { completed } from '../core/fill/method'
import { documentOf } from '../tests/fixtures/sampleDocument'
import { createRaster, type Raster } from '../core/image/raster'
import type { FillInput } from '../core/fill/method'
import { defaultsOf, fillMethods, findFill } from '../core/fill/registry'
import { closedInput, shiftedSource } from '../tests/fixtures/sampleInput'
import { evaluateFrame } from '../core/evaluate/evaluateFrame'
import { planFrame } from '../core/plan/planFrame'
import { ALL_FRAMES } from '../tests/fixtures/sampleDocument'
import { NEVER_STOPS, sourceOfSamples } from '../tests/fixtures/sampleSource'
import { sampleEllipse, sampleMend } from '../tests/fixtures/sampleMend'
import { startingFinish } from '../core/document/mend'
import type { Source } from '../core/document/source'
import { createCache } from '../workers/cache'
import { benchPicture, median, print, round, timed } from './benchTools'
import { inpaint, loadOpenCv, type OpenCv } from './opencv'

const [width, height] = [1920, 1080]
const [CENTRE_X, CENTRE_Y, RADIUS] = [900, 520, 100]
/** Frames of the same scene with other grain, in turn: equal frames would be no work for what looks at time. */
const plates = [7, 19, 31, 43].map((seed) => benchPicture(width, height, seed))
const sourceOfPlates = () =>
  sourceOfSamples((frame) => plates[frame % plates.length]!, { cache: createCache() })

const SIDEWAYS: Source = {
  keys: [{ frame: 1001, dx: -260, dy: 0, turnDeg: 0, scale: 1 }],
  interpolation: 'smooth',
  follow: null,
}
const discMend = (methodId: string, radius = RADIUS) =>
  sampleMend({
    id: methodId,
    areas: [
      sampleEllipse({
        keys: [{ frame: 1001, x: CENTRE_X, y: CENTRE_Y, radiusXPx: radius, radiusYPx: radius, turnDeg: 0 }],
      }),
    ],
    fill: { methodId, methodVersion: findFill(methodId)!.version, params: defaultsOf(findFill(methodId)!) },
    source: SIDEWAYS,
    finish: startingFinish('patch'),
  })

/** Frame after frame of one mend; what it learnt stays. The first frame and the median of those that follow. */
async function framesOf(methodId: string): Promise<{ firstMs: number; nextMs: number }> {
  const mend = discMend(methodId)
  const run = async (frame: number, source: ReturnType<typeof sourceOfPlates>, isDraft = false) => {
    const begun = performance.now()
    await evaluateFrame(planFrame(documentOf([mend], new Map(), ALL_FRAMES), frame), source, {
      ...NEVER_STOPS,
      isDraft,
    })
    return performance.now() - begun
  }
  for (let i = 0; i < 2; i++) await run(1001, sourceOfPlates()) // compiles
  const first: number[] = []
  for (let i = 0; i < 5; i++) first.push(await run(1001, sourceOfPlates()))
  const source = sourceOfPlates()
  const next: number[] = []
  for (let frame = 1001; frame < 1021; frame++) next.push(await run(frame, source))
  if (findFill(methodId)!.hasDraft) {
    const previews: number[] = []
    for (let i = 0; i < 5; i++) previews.push(await run(1001, sourceOfPlates(), true))
    print('fill-preview-ms', median(previews), 'ms', { fill: methodId })
  }
  return { firstMs: median(first), nextMs: median(next.slice(4)) }
}

/** The disc, 48 px of the picture round it, in floats. */
export function discInput(radius: number): FillInput {
  const side = 2 * radius + 96
  const picture = createRaster(side, side, 3)
  const [left, top] = [CENTRE_X - side / 2, CENTRE_Y - side / 2]
  for (let i = 0; i < picture.data.length; i++) {
    const pixel = Math.floor(i / 3)
    picture.data[i] =
      plates[0]!.data[((top + Math.floor(pixel / side)) * width + left + (pixel % side)) * 3 + (i % 3)]! / 255
  }
  return closedInput(picture, circle(side / 2, radius), undefined, { source: sourceBeside(picture) })
}
const circle = (centre: number, radius: number) =>
  Array.from({ length: 64 }, (_, i) => (i * Math.PI) / 32).flatMap((turn) => [
    centre + radius * Math.cos(turn),
    centre + radius * Math.sin(turn),
  ])
/** As good as any other place, for what it costs. */
const sourceBeside = (picture: Raster): FillInput['source'] => shiftedSource(picture, 3, 0)

/** What the library has for the same job on the same pixels; null where it has nothing. */
function referenceOf(cv: OpenCv, methodId: string): { name: string; run: () => void } | null {
  const input = discInput(RADIUS)
  const { width: w, height: h, data } = input.picture
  const rgb = Uint8Array.from(data, (value) => Math.round(value * 255))
  const hole = new Uint8Array(w * h)
  for (let i = 0; i < input.field.count; i++) hole[input.field.pixels[i]!] = input.wanted[i]! > 0 ? 255 : 0
  const filtered = (filter: (from: OpenCv, to: OpenCv) => void) => () => {
    const [from, to] = [cv.matFromArray(h, w, cv.CV_8UC3, rgb), new cv.Mat()]
    filter(from, to)
    from.delete()
    to.delete()
  }
  const params = defaultsOf(findFill(methodId)!) as { radiusPx?: number }
  switch (methodId) {
    case 'membrane':
    case 'heal':
      return { name: 'inpaint, Navier-Stokes', run: () => inpaint(cv, rgb, w, h, hole, 'navier-stokes') }
    case 'near':
    case 'texture':
      return { name: 'inpaint, Telea', run: () => inpaint(cv, rgb, w, h, hole, 'telea') }
    case 'median': {
      const side = 2 * Math.round(params.radiusPx!) + 1
      return {
        name: `medianBlur, ${side} px square`,
        run: filtered((from, to) => cv.medianBlur(from, to, side)),
      }
    }
    case 'soften':
      return {
        name: 'GaussianBlur',
        run: filtered((from, to) => cv.GaussianBlur(from, to, new cv.Size(0, 0), params.radiusPx ?? 4)),
      }
    case 'clone': {
      const matrix = cv.matFromArray(2, 3, cv.CV_64FC1, [1, 0, 3, 0, 1, 0])
      return {
        name: 'warpAffine, cubic',
        run: filtered((from, to) => cv.warpAffine(from, to, matrix, new cv.Size(w, h), cv.INTER_CUBIC)),
      }
    }
    default:
      return null
  }
}

export async function benchFills(): Promise<void> {
  const { cv } = await loadOpenCv()
  for (const method of fillMethods) {
    if (method.needsPath) continue // a disc is no path: preview-ms
    const { firstMs, nextMs } = await framesOf(method.id)
    print('fill-ms', nextMs, 'ms', { fill: method.id, area: '200 px disc', picture: `${width}x${height}` })
    print('fill-first-ms', firstMs, 'ms', { fill: method.id })
    const input = discInput(RADIUS)
    const params = defaultsOf(method)
    const kernelMs = await timed(method.hasDraft ? 5 : 15, () =>
      completed(method.run(input, params, NEVER_STOPS, [])),
    )
    print('fill-kernel-ms', kernelMs, 'ms', { fill: method.id })
    const reference = referenceOf(cv, method.id)
    if (!reference) continue
    const theirMs = await timed(5, reference.run)
    print('opencv-ms', theirMs, 'ms', {
      fill: method.id,
      reference: reference.name,
      ratio: round(theirMs / kernelMs),
    })
  }
  const membrane = findFill('membrane')!
  for (const radius of [50, 100, 200]) {
    const input = discInput(radius)
    const ms = await timed(9, () => completed(membrane.run(input, defaultsOf(membrane), NEVER_STOPS, [])))
    const pixels = Array.from(input.wanted).filter((value) => value > 0).length
    print('membrane-ms', ms, 'ms', { pixels, usPerPx: round((ms * 1000) / pixels) })
  }
}
