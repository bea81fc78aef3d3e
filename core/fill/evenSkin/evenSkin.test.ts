/** *Even skin* on a made-up face. */
import { FACE, paintedFace, partAt } from '../../../tests/fixtures/paintedFace'
import { fillOf, sampleEllipse, sampleMend } from '../../../tests/fixtures/sampleMend'
import { mendSamples, sourceOfSamples } from '../../../tests/fixtures/sampleSource'
import { MATTE_FULL } from '../../evaluate/evaluatedFrame'
import { samplesFromRaster } from '../../image/samples'
import { closedInput } from '../../../tests/fixtures/sampleInput'
import { convolveSeparable, gaussianTaps } from '../../image/convolve'
import type { Raster } from '../../image/raster'
import { completed, type Prepared } from '../method'
import { evenSkin } from './evenSkin'

const GOES_ON = { shouldStop: () => false }
const SKIN = [62, 11, 18] as const
const face = paintedFace(SKIN, [1, 1, 1], { blotches: 0.02 })
const OUTLINE = Array.from({ length: 24 }, (_, i) => (2 * Math.PI * i) / 24).flatMap((turn) => [
  FACE.x + (FACE.radiusX + 4) * Math.cos(turn),
  FACE.y + (FACE.radiusY + 4) * Math.sin(turn),
])

/** The picture as it comes out, laid over by the matte. */
function evened(params: Record<string, unknown>, picture = face, prepared: Prepared[] = []): Raster {
  const input = closedInput(picture, OUTLINE)
  const settings = evenSkin.params.parse({ radiusPx: 14, ...params })
  const result = completed(evenSkin.run(input, settings, GOES_ON, prepared), prepared)
  if (!result.ok) throw new Error(result.detail)
  const out = { ...picture, data: picture.data.slice() }
  for (let i = 0; i < input.field.count; i++) {
    if (input.wanted[i] === 0) continue
    const at = 3 * input.field.pixels[i]!
    for (let c = 0; c < 3; c++)
      out.data[at + c]! += result.needed![i]! * (result.values[3 * i + c]! - out.data[at + c]!)
  }
  return out
}

/** Energy of what is finer than a pore, inside the skin. */
function poresOf(picture: Raster): number {
  const taps = gaussianTaps(0.8)
  const soft = convolveSeparable(picture, taps, taps).data
  let sum = 0
  eachAt('skin', (at) => (sum += (picture.data[3 * at]! - soft[3 * at]!) ** 2))
  return sum
}
function eachAt(part: string, visit: (at: number) => void): void {
  for (let at = 0; at < FACE.width * FACE.height; at++) {
    const [x, y] = [at % FACE.width, Math.floor(at / FACE.width)]
    if ([-4, 0, 4].every((off) => partAt(x + off, y) === part && partAt(x, y + off) === part)) visit(at)
  }
}
const meanOf = (picture: Raster, channel: number): number => {
  let [sum, count] = [0, 0]
  eachAt('skin', (at) => {
    sum += picture.data[3 * at + channel]!
    count++
  })
  return sum / count
}

/** The same face without blotches, pore by pore. */
const smooth = paintedFace(SKIN, [1, 1, 1], { blotches: 0 })
/** Energy of what blotches there are, as a share of those of the plate. */
function blotchesLeft(params: Record<string, unknown>): number {
  const [blotchy, plain] = [evened(params), evened(params, smooth)]
  let [left, was] = [0, 0]
  eachAt('skin', (at) => {
    left += (blotchy.data[3 * at]! - plain.data[3 * at]!) ** 2
    was += (face.data[3 * at]! - smooth.data[3 * at]!) ** 2
  })
  return left / was
}

test('at full evenness most of the blotches go, at its start about a third; pores stay', () => {
  expect(blotchesLeft({ evenness: 100 })).toBeLessThan(0.4)
  const usual = blotchesLeft({})
  expect(usual).toBeGreaterThan(0.65)
  expect(usual).toBeLessThan(0.75)
  for (const evenness of [30, 100]) expect(poresOf(evened({ evenness }))).toBeGreaterThan(0.9 * poresOf(face))
  expect(poresOf(evened({ pores: 40 }))).toBeLessThan(0.4 * poresOf(face))
})

test('eyes, lips, hair and the wall stay as they are', () => {
  const { data } = evened({ evenness: 100, redness: -50 })
  for (const part of ['eye', 'lips', 'hair', 'wall']) {
    let worst = 0
    eachAt(part, (at) => (worst = Math.max(worst, Math.abs(data[3 * at]! - face.data[3 * at]!))))
    expect([part, worst < 0.008, worst]).toEqual([part, true, worst])
  }
})

test('trims change the skin’s colour as they say', () => {
  const [red, green, blue] = [0, 1, 2].map((c) => meanOf(face, c)) as [number, number, number]
  const warmer = evened({ warmth: 50 })
  expect(meanOf(warmer, 0)).toBeGreaterThan(red + 0.02)
  expect(meanOf(warmer, 2)).toBeLessThan(blue - 0.02)
  const lessRed = evened({ redness: -50 })
  expect(meanOf(lessRed, 0) - meanOf(lessRed, 1)).toBeLessThan(red - green - 0.03)
  expect(meanOf(evened({ brightnessStops: 0.5 }), 1)).toBeGreaterThan(green + 0.05)
})

test('a highlight comes down to the skin’s tone, the rest stays', () => {
  const shiny = { ...face, data: face.data.slice() }
  const spot = FACE.x - 4 + FACE.width * (FACE.y - 30)
  eachAt('skin', (at) => {
    const away =
      ((at % FACE.width) - (spot % FACE.width)) ** 2 + (Math.floor(at / FACE.width) - FACE.y + 30) ** 2
    for (let c = 0; c < 3; c++) shiny.data[3 * at + c]! += 0.28 * Math.exp(-away / 60)
  })
  const over = (picture: Raster) => picture.data[3 * spot]! - face.data[3 * spot]!
  expect(over(evened({ shine: 100, evenness: 0 }, shiny))).toBeLessThan(0.6 * over(shiny))
  const aside = 3 * (FACE.x + 20 + FACE.width * (FACE.y + 8))
  expect(evened({ shine: 100, evenness: 0 }, shiny).data[aside]).toBeCloseTo(shiny.data[aside]!, 1)
})

test('all of the area can be evened; a picture without colours is refused in words', () => {
  const grey: Raster = { ...face, channels: 1, data: face.data.filter((_, i) => i % 3 === 0) }
  const result = completed(evenSkin.run(closedInput(grey, OUTLINE), evenSkin.params.parse({}), GOES_ON, []))
  expect(result).toMatchObject({ ok: false, detail: expect.stringContaining('no') as string })
  expect(blotchesLeft({ where: 'area', evenness: 100 })).toBeLessThan(0.4)
})

test('its matte can be looked at: white on skin, black on eyes, nothing beyond the area', async () => {
  const samples = samplesFromRaster(face, 8)
  const area = sampleEllipse({
    keys: [{ frame: 1001, x: FACE.x, y: FACE.y, radiusXPx: FACE.radiusX + 4, radiusYPx: FACE.radiusY + 4, turnDeg: 0 }], // prettier-ignore
  })
  const { seenMaps } = await mendSamples(sourceOfSamples(samples), [
    sampleMend({ areas: [area], fill: fillOf('even-skin') }),
  ])
  const [{ rect, seen, isMatte }] = seenMaps as [(typeof seenMaps)[number]]
  const at = (x: number, y: number) => seen[(y - rect.row) * rect.width + x - rect.col]!
  expect(isMatte).toBe(true)
  expect(at(FACE.x, FACE.y + 8)).toBe(MATTE_FULL)
  expect(at(FACE.x - 15, FACE.y - 10)).toBe(0)
  expect(at(rect.col, rect.row)).toBe(-1)
})

test('all but the skin can be evened: then the skin stays as it is', () => {
  const rest = evened({ covers: 'rest', evenness: 100 })
  let [sum, count] = [0, 0]
  eachAt('skin', (at) => {
    sum += Math.abs(rest.data[3 * at]! - face.data[3 * at]!)
    count++
  })
  expect(sum / count).toBeLessThan(0.001)
})

test('a crease is softened as far as is asked, and never filled', () => {
  const creased = { ...face, data: face.data.slice() }
  const [row, half] = [FACE.y + 14, 8]
  for (let x = FACE.x - half; x <= FACE.x + half; x++)
    for (const y of [row, row + 1, row + 2, row + 3])
      for (let c = 0; c < 3; c++) creased.data[3 * (y * FACE.width + x) + c]! *= 0.82
  const depth = (picture: Raster) => {
    let sum = 0
    for (let x = FACE.x - 4; x <= FACE.x + 4; x++)
      sum += picture.data[3 * ((row - 5) * FACE.width + x)]! - picture.data[3 * ((row + 1) * FACE.width + x)]!
    return sum
  }
  const plain = depth(evened({ evenness: 0 }, creased))
  const softer = depth(evened({ evenness: 0, lines: 50 }, creased))
  const softest = depth(evened({ evenness: 0, lines: 100 }, creased))
  expect(softer).toBeLessThan(0.9 * plain)
  expect(softest).toBeLessThan(softer)
  expect(softest).toBeGreaterThan(0)
})

test('more passes take more of the blotches, and no pores', () => {
  const [once, often] = [blotchesLeft({ evenness: 50 }), blotchesLeft({ evenness: 50, passes: 3 })]
  expect(often).toBeLessThan(0.7 * once)
  expect(poresOf(evened({ evenness: 50, passes: 3 }))).toBeGreaterThan(0.9 * poresOf(face))
})
