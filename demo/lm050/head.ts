/** The lamplighter's head: its chart with paint and form, and how a frame sees it in the lamp's light. */
import { convolveSeparable, gaussianTaps } from '../../core/image/convolve'
import { createRaster, type Matte, type Raster } from '../../core/image/raster'
import { sampleManyInto } from '../../core/image/sample'
import { withKernelMemory } from '../../core/kernels/memory'
import { cos, exp, sin } from '../../core/kernels/exact'
import { createRandom } from '../random'
import { CHART } from './paint'
import { BLEMISHES, HEAD, type Moment } from './scene'

/** What the chart says at a place, one after the other: linear paint as it is and as it ought to be, the surface's normal, skin, shine as it is and ought to be. */
const [PAINT, CLEAN, NORMAL, SKIN, SHINE, CLEAN_SHINE] = [0, 3, 6, 9, 10, 11] as const
const CHANNELS = 12

const CLAY = [0.6, 0.3, 0.19] as const
/** Blotches: dark ones are redder. Pores are in all colours alike. */
const BLOTCH = { deviationPx: 10, strength: [0.045, 0.085, 0.08] } as const
const PORES = { deviationPx: 0.8, strength: 0.045 } as const

/** The chart of the head itself. @param features  What is no skin, premultiplied, on the chart. */
export function chartOfHead(features: Raster, seed: number): Raster {
  const { sizePx, unitPx } = CHART
  const chart = createRaster(sizePx, sizePx, CHANNELS)
  const blotches = noise(seed + 1, BLOTCH.deviationPx)
  const pores = noise(seed + 2, PORES.deviationPx)
  const tilted = normals()
  for (let row = 0, pixel = 0; row < sizePx; row++) {
    const v = (row + 0.5 - sizePx / 2) / unitPx
    for (let col = 0; col < sizePx; col++, pixel++) {
      const u = (col + 0.5 - sizePx / 2) / unitPx
      const to = pixel * CHANNELS
      const through = 1 - Math.min(1, features.data[4 * pixel + 3]!)
      for (let c = 0; c < 3; c++) {
        const pored = CLAY[c]! * (1 + PORES.strength * pores[pixel]!)
        const blotched = pored * Math.max(0.4, 1 + BLOTCH.strength[c]! * blotches[pixel]!)
        chart.data[to + PAINT + c] = features.data[4 * pixel + c]! + through * blotched
        chart.data[to + CLEAN + c] = features.data[4 * pixel + c]! + through * pored
      }
      for (let c = 0; c < 3; c++) chart.data[to + NORMAL + c] = tilted[3 * pixel + c]!
      chart.data[to + SKIN] = through
      const forehead = bump(u, v, 0, -0.36, 0.2, 0.09)
      const base = 0.035 + 0.1 * bump(u, v, 0, 0.15, 0.05, 0.05)
      chart.data[to + SHINE] = base + 0.5 * through * forehead
      chart.data[to + CLEAN_SHINE] = base + 0.08 * through * forehead
    }
  }
  for (const spot of BLEMISHES) paintBlemish(chart, spot)
  return chart
}

/** The chart of the wool, which lies over the head. Its alpha stands where the head's chart has skin. */
export function chartOfWool(wool: Raster, seed: number): Raster {
  const { sizePx, unitPx } = CHART
  const chart = createRaster(sizePx, sizePx, CHANNELS)
  const rough = noise(seed + 3, 1.6)
  for (let row = 0, pixel = 0; row < sizePx; row++) {
    const v = (row + 0.5 - sizePx / 2) / unitPx
    for (let col = 0; col < sizePx; col++, pixel++) {
      const u = (col + 0.5 - sizePx / 2) / unitPx
      const to = pixel * CHANNELS
      for (let c = 0; c < 3; c++) {
        const lit = wool.data[4 * pixel + c]! * (1 + 0.2 * rough[pixel]!)
        chart.data[to + PAINT + c] = lit
        chart.data[to + CLEAN + c] = lit
      }
      const round = 1 + u * u + v * v
      chart.data[to + NORMAL] = (2 * u) / round
      chart.data[to + NORMAL + 1] = (2 * v) / round
      chart.data[to + NORMAL + 2] = (2 - round) / round
      chart.data[to + SKIN] = wool.data[4 * pixel + 3]!
    }
  }
  return chart
}

/** Lays a shell over the plate's light and the truth's. @param byHow  How much wider than the head it is. @param matte  Gets the skin that is seen; null for wool, which takes from it. */
export function layShell(
  light: Raster,
  truth: Raster,
  matte: Matte,
  chart: Raster,
  moment: Moment,
  { byHow, isWool }: { readonly byHow: number; readonly isWool: boolean },
): void {
  const seen = seePixels(light, moment, byHow)
  const values = new Float32Array(seen.pixels.length * CHANNELS)
  const bytes = 4 * (chart.data.length + values.length + seen.places.length)
  withKernelMemory(bytes, (scope) => sampleManyInto(values, chart, seen.places, 'bilinear', scope))
  const shade = shader(moment)
  for (let i = 0; i < seen.pixels.length; i++) {
    const from = i * CHANNELS
    const pixel = seen.pixels[i]!
    const skin = Math.min(1, values[from + SKIN]!)
    const cover = isWool ? seen.covers[i]! * skin : seen.covers[i]!
    if (cover <= 0) continue
    const lit = shade(values, from + NORMAL)
    for (let c = 0; c < 3; c++) {
      const to = 3 * pixel + c
      const [own, gloss] = [lit.light[c]!, lit.gloss * moment.lamp[c]!]
      const was = values[from + PAINT + c]! * own + values[from + SHINE]! * gloss
      const ought = values[from + CLEAN + c]! * own + values[from + CLEAN_SHINE]! * gloss
      // Wool is premultiplied on its chart.
      const share = isWool ? seen.covers[i]! : cover
      light.data[to] = light.data[to]! * (1 - cover) + was * share
      truth.data[to] = truth.data[to]! * (1 - cover) + ought * share
    }
    matte.data[pixel] = isWool ? matte.data[pixel]! * (1 - cover) : skin * cover
  }
}

/** The pixels that see a shell, how much of each it covers, and the place of the chart that each sees. */
function seePixels(frame: Raster, { head }: Moment, byHow: number) {
  const [c, s] = [cos(head.turnRad), sin(head.turnRad)]
  const [a, b, d] = [HEAD.across * byHow, HEAD.down * byHow, HEAD.towards * byHow]
  const wide = a * a * c * c + d * d * s * s
  const most = Math.ceil(2 * Math.sqrt(wide) + 6) * Math.ceil(2 * b + 6)
  const [pixels, covers, places] = [new Int32Array(most), new Float32Array(most), new Float32Array(2 * most)]
  let count = 0
  const squared = (s * s) / (a * a) + (c * c) / (d * d)
  for (
    let row = Math.max(0, Math.floor(head.y - b - 2));
    row < Math.min(frame.height, head.y + b + 2);
    row++
  ) {
    const y = row + 0.5 - head.y
    for (let col = Math.floor(head.x - Math.sqrt(wide) - 2); col < head.x + Math.sqrt(wide) + 2; col++) {
      const x = col + 0.5 - head.x
      const inside = 1 - (x * x) / wide - (y * y) / (b * b)
      const slope = 2 * Math.sqrt((x * x) / (wide * wide) + (y * y) / b ** 4)
      const cover = Math.min(1, Math.max(0, 0.5 + inside / slope))
      if (cover === 0) continue
      // Where the line of sight meets the ellipsoid; beyond its edge, where it passes nearest.
      const linear = 2 * x * c * s * (1 / (d * d) - 1 / (a * a))
      const constant = x * x * ((c * c) / (a * a) + (s * s) / (d * d)) - 1 + (y * y) / (b * b)
      const z = (-linear + Math.sqrt(Math.max(0, linear * linear - 4 * squared * constant))) / (2 * squared)
      const [px, py, pz] = [(x * c - z * s) / a, y / b, (x * s + z * c) / d]
      pixels[count] = row * frame.width + col
      covers[count] = cover
      places[2 * count] = CHART.sizePx / 2 + (CHART.unitPx * px) / (1 + pz)
      places[2 * count++ + 1] = CHART.sizePx / 2 + (CHART.unitPx * py) / (1 + pz)
    }
  }
  return {
    pixels: pixels.subarray(0, count),
    covers: covers.subarray(0, count),
    places: places.subarray(0, 2 * count),
  }
}

/** Towards the lamp, and half way between it and the camera: there a shiny surface shows the lamp. */
const LAMP = [-0.52, -0.4, 0.755] as const
const HALF = [-0.2776, -0.2135, 0.9368] as const
const SKY = [0.2, 0.235, 0.29] as const

function shader({ head, lamp }: Moment) {
  const [c, s] = [cos(head.turnRad), sin(head.turnRad)]
  const light = [0, 0, 0]
  const lit = { light, gloss: 0 }
  return (values: Float32Array, at: number) => {
    const [x, y, z] = [values[at]! / HEAD.across, values[at + 1]! / HEAD.down, values[at + 2]! / HEAD.towards]
    const long = Math.sqrt(x * x + y * y + z * z)
    const [nx, ny, nz] = [(x * c + z * s) / long, y / long, (z * c - x * s) / long]
    const towards = Math.max(0, 0.85 * (nx * LAMP[0] + ny * LAMP[1] + nz * LAMP[2]) + 0.15)
    const mirrored = Math.max(0, nx * HALF[0] + ny * HALF[1] + nz * HALF[2])
    const [to4, sky] = [mirrored ** 4, 0.6 + 0.4 * nz]
    lit.gloss = to4 * to4 * to4 * to4 * to4
    for (let channel = 0; channel < 3; channel++)
      light[channel] = lamp[channel]! * towards + SKY[channel]! * sky
    return lit
  }
}

function paintBlemish(chart: Raster, { u, v, radiusPx, gains }: (typeof BLEMISHES)[number]): void {
  const { sizePx, unitPx } = CHART
  // One unit of the chart is two of the head's half axes at its middle, and shrinks towards its sides.
  const radius = (radiusPx * unitPx * (1 + u * u + v * v)) / (2 * Math.sqrt(HEAD.across * HEAD.down))
  const [midX, midY] = [sizePx / 2 + unitPx * u, sizePx / 2 + unitPx * v]
  for (let row = Math.floor(midY - 1.4 * radius); row <= midY + 1.4 * radius; row++) {
    for (let col = Math.floor(midX - 1.4 * radius); col <= midX + 1.4 * radius; col++) {
      const far = Math.sqrt((col + 0.5 - midX) ** 2 + (row + 0.5 - midY) ** 2) / radius
      const share = Math.min(1, Math.max(0, (1.25 - far) / 0.6))
      const soft = share * share * (3 - 2 * share)
      for (let c = 0; c < 3; c++)
        chart.data[(row * sizePx + col) * CHANNELS + PAINT + c]! *= 1 + soft * (gains[c]! - 1)
    }
  }
}

/** Noise of deviation 1 over the chart. */
function noise(seed: number, deviationPx: number): Float32Array {
  const random = createRandom(seed)
  const white = createRaster(CHART.sizePx, CHART.sizePx, 1)
  for (let i = 0; i < white.data.length; i++) white.data[i] = random() + random() + random() - 1.5
  const taps = gaussianTaps(deviationPx)
  const { data } = convolveSeparable(white, taps, taps)
  let square = 0
  for (const value of data) square += value * value
  const deviation = Math.sqrt(square / data.length)
  return data.map((value) => value / deviation)
}

const bump = (u: number, v: number, midU: number, midV: number, wide: number, tall: number): number =>
  exp(-(((u - midU) / wide) ** 2) - ((v - midV) / tall) ** 2)

/** How far the clay stands out, in half axes: nose, cheeks, brows, lips and chin; eyes lie deeper. */
function reliefAt(u: number, v: number): number {
  const bridge = bump(u, v, 0, 0.02, 0.05, 0.16)
  let relief =
    0.045 * bridge + 0.06 * bump(u, v, 0, 0.165, 0.065, 0.055) + 0.03 * bump(u, v, 0, 0.53, 0.13, 0.1)
  relief += 0.012 * bump(u, v, 0, 0.33, 0.12, 0.07)
  for (const side of [-1, 1])
    relief +=
      0.035 * bump(u, v, 0.3 * side, 0.16, 0.15, 0.13) +
      0.02 * bump(u, v, 0.19 * side, -0.17, 0.13, 0.045) -
      0.035 * bump(u, v, 0.19 * side, -0.06, 0.1, 0.06) +
      0.02 * bump(u, v, 0.055 * side, 0.195, 0.025, 0.025)
  return relief
}

/** The chart's normals of the sphere, tilted by the relief's slopes. */
function normals(): Float32Array {
  const { sizePx, unitPx } = CHART
  const relief = new Float32Array(sizePx * sizePx)
  const chartAt = (index: number): number => (index + 0.5 - sizePx / 2) / unitPx
  const isFace = (u: number, v: number): boolean => Math.abs(u) < 0.7 && Math.abs(v) < 0.9
  for (let row = 0, pixel = 0; row < sizePx; row++)
    for (let col = 0; col < sizePx; col++, pixel++)
      if (isFace(chartAt(col), chartAt(row))) relief[pixel] = reliefAt(chartAt(col), chartAt(row))
  const out = new Float32Array(3 * sizePx * sizePx)
  for (let row = 0, pixel = 0; row < sizePx; row++) {
    const v = chartAt(row)
    for (let col = 0; col < sizePx; col++, pixel++) {
      const u = chartAt(col)
      const round = 1 + u * u + v * v
      let [x, y, z] = [(2 * u) / round, (2 * v) / round, (2 - round) / round]
      if (isFace(u, v)) {
        const alongU = ((relief[pixel + 1]! - relief[pixel - 1]!) * unitPx * round) / 4
        const alongV = ((relief[pixel + sizePx]! - relief[pixel - sizePx]!) * unitPx * round) / 4
        // The chart's directions on the sphere: (1, 0, -u) - u P and (0, 1, -v) - v P.
        const tilted = [
          x - alongU * (1 - u * x) + alongV * v * x,
          y + alongU * u * y - alongV * (1 - v * y),
          z + (alongU * u + alongV * v) * (1 + z),
        ] as const
        ;[x, y, z] = tilted
      }
      out[3 * pixel] = x
      out[3 * pixel + 1] = y
      out[3 * pixel + 2] = z
    }
  }
  return out
}
