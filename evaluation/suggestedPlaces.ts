/**
 * How good suggested places to copy from are, on photographs: areas are laid over frames whose true picture is known, places for them
 * suggested, and compared with the best of all places of the picture, found by brute force here.
 *
 *   node --import tsx evaluation/suggestedPlaces.ts SEQUENCES [--only=NAME]
 *
 * Prints a JSON line for each place: the rim error of the first suggestion and of the best of all places (rms of what differs, code
 * values), and the PSNR of the healed area against the truth for the first and for the best of the suggestions. At the end the two halves.
 */
import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { sampleEllipse, sampleMend, fillOf } from '../tests/fixtures/sampleMend'
import type { Area } from '../core/document/areas'
import { DEFAULT_FINISH, type Mend } from '../core/document/mend'
import { evaluateFrame } from '../core/evaluate/evaluateFrame'
import { sourceAt, suggestedResults } from '../core/evaluate/suggest/suggestedResults'
import type { Rect } from '../core/image/rect'
import { cropSamples, type Samples } from '../core/image/samples'
import { planFrame } from '../core/plan/planFrame'
import type { ShotDocument } from '../core/plan/shotDocument'
import { readyDigests } from '../core/shot/digest'
import { FIRST_FRAME, openSequence, sequencesIn, type PracticeSequence } from './practiceFootage'

const NEVER = { shouldStop: () => false }
const COLUMNS = 3
const ROWS = 2
/** Of the picture's height. */
const RADIUS_SHARE = 0.05
const RIM_PX = 6
const STEP_PX = 2

interface Tried {
  readonly rim: number
  readonly best: number
  readonly firstDb: number
  readonly bestDb: number
  readonly ms: number
}

async function tryPlaces(sequence: PracticeSequence): Promise<Tried[]> {
  const truth = await sequence.read('clean', FIRST_FRAME)
  const out: Tried[] = []
  for (let k = 0; k < COLUMNS * ROWS; k++) {
    const [x, y] = [
      Math.round((truth.width * ((k % COLUMNS) + 1)) / (COLUMNS + 1)) + 0.5,
      Math.round((truth.height * (Math.floor(k / COLUMNS) + 1)) / (ROWS + 1)) + 0.5,
    ]
    const tried = await tryPlace(sequence, truth, x, y)
    if (!tried) continue
    out.push(tried)
    console.log(JSON.stringify({ sequence: sequence.name, sets: sequence.sets, x, y, ...tried }))
  }
  return out
}

async function tryPlace(
  { clip }: PracticeSequence,
  truth: Samples,
  x: number,
  y: number,
): Promise<Tried | null> {
  const radius = Math.round(RADIUS_SHARE * truth.height)
  const [radiusXPx, radiusYPx] = [radius, Math.round(0.75 * radius)]
  const keys = [{ frame: FIRST_FRAME, x, y, radiusXPx, radiusYPx, turnDeg: 0 }]
  const area: Area = sampleEllipse({ keys })
  const span = { firstFrame: FIRST_FRAME, lastFrame: FIRST_FRAME }
  const finish = { ...DEFAULT_FINISH, grain: 0 }
  const mend: Mend = sampleMend({ id: 'p', kind: 'patch', areas: [area], fill: fillOf('heal'), finish, span })
  const plate = { ...span, width: truth.width, height: truth.height }
  const document: ShotDocument = { mends: [mend], tracks: new Map(), plate, scene: null }
  const clean = {
    ...clip,
    readRect: (_: number, rect: Rect) => Promise.resolve(cropSamples(truth, rect)),
  }
  const begun = performance.now()
  const results = await suggestedResults(
    document,
    { mendId: 'p', areaId: area.id, frame: FIRST_FRAME },
    clean,
    NEVER,
  )
  if (results.length === 0) return null
  const ms = Math.round(performance.now() - begun)
  const dbs: number[] = []
  for (const one of results) {
    const source = sourceAt(mend, area, new Map(), one)
    const mended = await evaluateFrame(
      planFrame({ ...document, mends: [{ ...mend, source }] }, FIRST_FRAME),
      clean,
      NEVER,
    )
    const { rect, samples } = mended.patches[0]!
    let [sum, count] = [0, 0]
    for (let i = 0; i < samples.data.length; i++) {
      const pixel = Math.floor(i / samples.channels)
      const [col, row] = [
        rect.col + (pixel % rect.width) + 0.5,
        rect.row + Math.floor(pixel / rect.width) + 0.5,
      ]
      if (((col - x) / radiusXPx) ** 2 + ((row - y) / radiusYPx) ** 2 > 1) continue
      const off =
        (samples.data[i]! - valueAt(truth, col - 0.5, row - 0.5, i % samples.channels)) / maximum(truth)
      sum += off * off
      count++
    }
    dbs.push(-10 * Math.log10(sum / count + 1e-9))
  }
  const rim = rimPlaces(x, y, radiusXPx, radiusYPx)
  const { dx, dy, turnDeg, scale } = results[0]!
  const own = rimError(truth, rim, (px, py) => turned(px, py, x, y, dx, dy, turnDeg, scale)) ?? Infinity
  const best = Math.min(own, leastRimError(truth, rim, [2 * radiusXPx + 4, 2 * radiusYPx + 4]))
  return { rim: own, best, firstDb: dbs[0]!, bestDb: Math.max(...dbs), ms }
}

const maximum = ({ data }: Samples): number => (data.BYTES_PER_ELEMENT === 1 ? 255 : 65535)

const valueAt = ({ width, channels, data }: Samples, col: number, row: number, c: number): number =>
  data[(row * width + col) * channels + c]!

function turned(
  px: number,
  py: number,
  x: number,
  y: number,
  dx: number,
  dy: number,
  turnDeg: number,
  scale: number,
) {
  const [c, s] = [scale * Math.cos((turnDeg * Math.PI) / 180), scale * Math.sin((turnDeg * Math.PI) / 180)]
  return [x + c * (px - x) - s * (py - y) + dx, y + s * (px - x) + c * (py - y) + dy] as const
}

/** Pixel centres just outside the ellipse. */
function rimPlaces(x: number, y: number, rx: number, ry: number): (readonly [number, number])[] {
  const out: (readonly [number, number])[] = []
  for (let row = Math.floor(y - ry - RIM_PX); row <= y + ry + RIM_PX; row++) {
    for (let col = Math.floor(x - rx - RIM_PX); col <= x + rx + RIM_PX; col++) {
      const [px, py] = [col + 0.5, row + 0.5]
      const inner = ((px - x) / (rx + 1)) ** 2 + ((py - y) / (ry + 1)) ** 2
      const outer = ((px - x) / (rx + RIM_PX)) ** 2 + ((py - y) / (ry + RIM_PX)) ** 2
      if (inner > 1 && outer <= 1) out.push([px, py])
    }
  }
  return out
}

/** The least error of all whole shifts that are clear of the area, by brute force on every second one. */
function leastRimError(
  { width, height, channels, data }: Samples,
  rim: readonly (readonly [number, number])[],
  [clearX, clearY]: readonly [number, number],
): number {
  // In an order that looks all round early: what is far off is given up soon.
  const mixed = rim.map((_, k) => rim[(k * 61) % rim.length]!)
  const at = Int32Array.from(mixed, ([x, y]) => (Math.floor(y) * width + Math.floor(x)) * channels)
  const cols = mixed.map(([x]) => Math.floor(x))
  const rows = mixed.map(([, y]) => Math.floor(y))
  const [left, right] = [Math.min(...cols), Math.max(...cols)]
  const [top, bottom] = [Math.min(...rows), Math.max(...rows)]
  const toCodes = 255 / maximum({ width, height, channels, data })
  let least = Infinity
  const [sums, squares] = [new Float64Array(3), new Float64Array(3)]
  for (let dy = -top; dy < height - bottom; dy += STEP_PX) {
    for (let dx = -left; dx < width - right; dx += STEP_PX) {
      if (Math.abs(dx) < clearX && Math.abs(dy) < clearY) continue
      const shift = (dy * width + dx) * channels
      sums.fill(0)
      squares.fill(0)
      let n = 0
      let error = 0
      while (n < at.length) {
        const end = Math.min(at.length, n + 64)
        for (; n < end; n++) {
          for (let c = 0; c < 3; c++) {
            const off = toCodes * (data[at[n]! + c]! - data[at[n]! + shift + c]!)
            sums[c]! += off
            squares[c]! += off * off
          }
        }
        error = errorFrom(sums, squares, n)
        if (error > 1.5 * least + 4) break
      }
      if (n === at.length) least = Math.min(least, error)
    }
  }
  return least
}

/** Rms of what the rims differ by, the mean difference of each channel taken out of it to three quarters; in code values of 8 bits. */
function rimError(
  truth: Samples,
  rim: readonly (readonly [number, number])[],
  lead: (x: number, y: number) => readonly [number, number],
): number | null {
  const [sums, squares] = [
    [0, 0, 0],
    [0, 0, 0],
  ]
  let n = 0
  for (const [x, y] of rim) {
    const [tx, ty] = lead(x, y)
    const [col, row] = [Math.floor(tx - 0.5 + 1e-6), Math.floor(ty - 0.5 + 1e-6)]
    if (col < 0 || row < 0 || col + 1 >= truth.width || row + 1 >= truth.height) return null
    const [fx, fy] = [tx - 0.5 - col, ty - 0.5 - row]
    for (let c = 0; c < 3; c++) {
      const read = (i: number, j: number) => valueAt(truth, col + i, row + j, c)
      const there =
        fx < 1e-5 && fy < 1e-5
          ? read(0, 0)
          : (1 - fy) * ((1 - fx) * read(0, 0) + fx * read(1, 0)) +
            fy * ((1 - fx) * read(0, 1) + fx * read(1, 1))
      const off = (255 * (valueAt(truth, x - 0.5, y - 0.5, c) - there)) / maximum(truth)
      sums[c]! += off
      squares[c]! += off * off
    }
    n++
  }
  return errorFrom(sums, squares, n)
}

function errorFrom(sums: ArrayLike<number>, squares: ArrayLike<number>, n: number): number {
  let total = 0
  for (let c = 0; c < 3; c++) {
    const mean = sums[c]! / n
    total += Math.max(0, squares[c]! / n - mean * mean) + 0.25 * mean * mean
  }
  return Math.sqrt(total / 3)
}

const { positionals, values } = parseArgs({ allowPositionals: true, options: { only: { type: 'string' } } })
const [folder] = positionals
if (!folder)
  throw new Error('say where the sequences are: node --import tsx evaluation/suggestedPlaces.ts SEQUENCES')
await readyDigests()
const halves = { sets: [] as Tried[], reports: [] as Tried[] }
for (const name of sequencesIn(folder, values.only ? [values.only] : [''])) {
  if (!existsSync(join(folder, name, 'clean'))) continue
  const sequence = openSequence(folder, name)
  const tried = await tryPlaces(sequence)
  halves[sequence.sets ? 'sets' : 'reports'].push(...tried)
}
for (const [half, tried] of Object.entries(halves)) {
  const usable = tried.filter(({ rim, best }) => rim <= 1.5 * best).length
  const mean = (of: (one: Tried) => number) => tried.reduce((sum, one) => sum + of(one), 0) / tried.length
  console.log(
    JSON.stringify({
      half,
      places: tried.length,
      usableShare: usable / tried.length,
      firstDb: mean((one) => one.firstDb),
      bestDb: mean((one) => one.bestDb),
    }),
  )
}
