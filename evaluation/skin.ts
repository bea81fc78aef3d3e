/**
 * What *Even skin* does on real pictures: where it works, what of each band goes, and what must stay sharp.
 *
 *   node --import tsx evaluation/skin.ts FOLDER
 *
 * FOLDER holds the practice set; `skin_01` sets constants, as there is no second one. A JSON line for each evenness: `covered`, share of bare skin in the
 * matte; `false`, of the rest of the area; `blotches`, `pores`, energy left of what the plate has between two blurs, inside skin; `kept`, energy of slopes left in what
 * must stay sharp.
 */
import { evaluateFrame } from '../core/evaluate/evaluateFrame'
import { layPatches } from '../core/evaluate/finished'
import { boxAround } from '../core/document/layMark'
import { startingFill, startingFinish, type Mend } from '../core/document/mend'
import { convolveSeparable, gaussianTaps } from '../core/image/convolve'
import { createRaster, type Raster } from '../core/image/raster'
import { intersectRects, rectAround, type Rect } from '../core/image/rect'
import { rasterFromSamples, type Samples } from '../core/image/samples'
import { planFrame } from '../core/plan/planFrame'
import { learnTone } from '../core/skin/tone'
import { tonesOn } from '../core/skin/tonesSet'
import { toneMatte } from '../core/skin/toneMatte'
import { documentOf } from '../tests/fixtures/sampleDocument'
import { NEVER_STOPS } from '../tests/fixtures/sampleSource'
import { openSequence } from './practiceFootage'

const [folder = '.'] = process.argv.slice(2)
const AROUND_PX = 40
const LOOKS = [0, 8, 16, 24]
/** Deviations of blurs between which blotches lie, and under which pores do, px. */
const BLOTCHES = [2.5, 12] as const
const PORES = 1

interface Measured {
  readonly covered: number
  readonly false: number
  readonly blotches: number
  readonly pores: number
  readonly kept: number
}

/** Brightness alone, of a picture of three channels. */
function brightness(samples: Samples): Raster {
  const { width, height, channels, data } = rasterFromSamples(samples)
  const out = createRaster(width, height, 1)
  for (let at = 0; at < width * height; at++)
    out.data[at] = channels < 3 ? data[at * channels]! : (data[at * 3]! + 2 * data[at * 3 + 1]! + data[at * 3 + 2]!) / 4 // prettier-ignore
  return out
}

const blurred = (raster: Raster, sigmaPx: number): Float32Array => {
  const taps = gaussianTaps(sigmaPx)
  return convolveSeparable(raster, taps, taps).data
}

/** Energies of the bands and of slopes, over places that are asked. */
function energies(picture: Raster, skin: Uint8Array, keep: Uint8Array) {
  const [fine, wide, pore] = [blurred(picture, BLOTCHES[0]), blurred(picture, BLOTCHES[1]), blurred(picture, PORES)] // prettier-ignore
  const sums = { blotches: 0, pores: 0, slopes: 0 }
  for (let at = 0; at < skin.length; at++) {
    if (skin[at] === 1) {
      sums.blotches += (fine[at]! - wide[at]!) ** 2
      sums.pores += (picture.data[at]! - pore[at]!) ** 2
    }
    if (keep[at] === 1 && at + picture.width < skin.length) {
      sums.slopes += (picture.data[at + 1]! - picture.data[at]!) ** 2
      sums.slopes += (picture.data[at + picture.width]! - picture.data[at]!) ** 2
    }
  }
  return sums
}

const isOn = ({ data, channels }: Samples): Uint8Array =>
  Uint8Array.from({ length: data.length / channels }, (_, at) => (data[at * channels]! > 127 ? 1 : 0))

/** Around the bare skin, with some of what is beside it. */
function boxOf(mask: Uint8Array, { width, height }: Samples): Rect {
  let [left, top, right, bottom] = [Infinity, Infinity, 0, 0]
  mask.forEach((one, at) => {
    if (one === 0) return
    const [x, y] = [at % width, Math.floor(at / width)]
    ;[left, right, top, bottom] = [Math.min(left, x), Math.max(right, x), Math.min(top, y), Math.max(bottom, y)] // prettier-ignore
  })
  const around = rectAround(left - AROUND_PX, top - AROUND_PX, right + AROUND_PX, bottom + AROUND_PX)
  return intersectRects(around, { col: 0, row: 0, width, height })!
}

function mendOf(box: Rect, frame: number, params: Record<string, unknown>): Mend {
  const fill = startingFill('skin')
  return {
    id: 'skin',
    kind: 'skin',
    name: 'Skin',
    isOn: true,
    areas: [boxAround('a', box, box.col, box.row, frame)],
    fill: { ...fill, params: { ...fill.params, ...params } },
    source: null,
    finish: { ...startingFinish('skin'), featherOutPx: 0 },
    span: { firstFrame: frame, lastFrame: frame, rampInFrames: 0, rampOutFrames: 0 },
  }
}

async function measure(params: Record<string, unknown>): Promise<Measured> {
  const sequence = openSequence(folder, 'skin_01_muzzle')
  const sums = { covered: 0, skin: 0, wrong: 0, rest: 0 }
  const [before, after] = [
    { blotches: 0, pores: 0, slopes: 0 },
    { blotches: 0, pores: 0, slopes: 0 },
  ]
  for (const look of LOOKS) {
    const frame = sequence.span.firstFrame + look
    const plate = await sequence.read('plate', frame)
    const [skin, keep] = [isOn(await sequence.read('skin', frame)), isOn(await sequence.read('keep', frame))]
    const { width, height } = plate
    const box = boxOf(skin, plate)
    const document = documentOf([mendOf(box, frame, params)], new Map(), { ...sequence.span, width, height }, null) // prettier-ignore
    const { patches } = await evaluateFrame(planFrame(document, frame), sequence.clip, NEVER_STOPS)
    const result = layPatches(plate, patches, 3)
    const isInBox = (at: number) => {
      const [col, row] = [(at % width) - box.col, Math.floor(at / width) - box.row]
      return col >= 0 && row >= 0 && col < box.width && row < box.height
    }
    const picture = rasterFromSamples(plate)
    const tone = learnTone(picture, Array.from(skin.keys()).filter(isInBox))!
    const inMatte = toneMatte(picture, tonesOn([], tone), { hue: 1, colour: 1, brightness: 1 })
    for (let at = 0; at < skin.length; at++) {
      if (skin[at] === 1) {
        sums.skin++
        if (inMatte[at]! >= 0.5) sums.covered++
      } else if (keep[at] === 1) {
        sums.rest++
        if (inMatte[at]! >= 0.5) sums.wrong++
      }
    }
    const [was, is] = [plate, result].map((one) => energies(brightness(one), skin, keep)) as [typeof before, typeof before] // prettier-ignore
    for (const key of ['blotches', 'pores', 'slopes'] as const) {
      before[key] += was[key]
      after[key] += is[key]
    }
  }
  const share = (a: number, b: number) => Math.round((1000 * a) / Math.max(1e-9, b)) / 1000
  return {
    covered: share(sums.covered, sums.skin),
    false: share(sums.wrong, sums.rest),
    blotches: share(after.blotches, before.blotches),
    pores: share(after.pores, before.pores),
    kept: share(after.slopes, before.slopes),
  }
}

for (const evenness of [30, 100])
  console.log(JSON.stringify({ sequence: 'skin_01_muzzle', half: 'sets', evenness, ...(await measure({ evenness })) })) // prettier-ignore
