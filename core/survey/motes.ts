/**
 * Dust on a sensor or a lens: places that take a share of the light while the picture moves behind them.
 *
 * A place of the scene is seen through the mote on one frame and beside it on another: by how much less light it then has is what the
 * mote takes, whatever the scene is. So frames are laid over each other by the picture's own shift, and the differences in stops
 * averaged. Dust is soft, dark and round. Source: common practice.
 */
import { medianOf } from '../image/median'
import { atan2, cos, sin } from '../kernels/exact'
import { depthsOf, layOver, type Depths, type Key, type Side } from './moteDepths'
import { CELL_PX } from './quarter'
import type { Levels } from './shift'

export interface Mote {
  readonly kind: 'mote'
  /** Middle, px, and half the axes to where nothing is left of it; the first one turned clockwise. */
  readonly x: number
  readonly y: number
  readonly radiusXPx: number
  readonly radiusYPx: number
  readonly turnDeg: number
  /** How much light is left in its middle, in stops: below 0. */
  readonly depthStops: number
  readonly sure: number
  readonly why: string
}

export interface MoteCounter {
  /**
   * @param levels  The next frame: `levelsOf` its `quarterStops`.
   * @param moved  By how many cells the picture has moved since the last one; null where nothing goes on from it, as after a cut.
   */
  add(levels: Levels, moved: { readonly x: number; readonly y: number } | null): void
  finish(): SeenMote[]
}

/** A mote, and whether only frames from one side of time have shown what lies behind it: a bright mark can look so too. */
export interface SeenMote {
  readonly mote: Mote
  readonly isOneSided: boolean
}

/** Frames that later ones are laid over: so many, each so far from the one before. */
const KEYS = 10
const KEY_EVERY_CELLS = 4
/** A frame is laid over those between which the picture has moved as far: beyond the largest mote, and still sharing half. */
const MIN_CELLS = 9
const PAIRS_A_FRAME = 2
export function countMotes({
  width,
  height,
}: {
  readonly width: number
  readonly height: number
}): MoteCounter {
  const sides: Side[] = [0, 1].map(() => ({
    sum: new Float32Array(width * height),
    count: new Uint16Array(width * height),
  }))
  const keys: Key[] = []
  let last: Key | null = null
  let frames = 0
  return {
    add(levels, moved) {
      if (!moved) keys.length = 0
      const here: Key = {
        levels,
        x: moved && last ? last.x + moved.x : 0,
        y: moved && last ? last.y + moved.y : 0,
      }
      frames++
      const far = keys.filter((key) => {
        const [dx, dy] = [Math.abs(here.x - key.x), Math.abs(here.y - key.y)]
        return Math.max(dx, dy) >= MIN_CELLS && dx < width / 2 && dy < height / 2
      })
      for (let i = 0; i < Math.min(PAIRS_A_FRAME, far.length); i++) {
        // Other distances each time, so that what a pair shows doubled falls elsewhere in the next.
        layOver(far[(frames + i * Math.ceil(far.length / PAIRS_A_FRAME)) % far.length]!, here, sides)
      }
      const latest = keys.at(-1)
      if (!latest || Math.max(Math.abs(here.x - latest.x), Math.abs(here.y - latest.y)) >= KEY_EVERY_CELLS) {
        keys.push(here)
        if (keys.length > KEYS) keys.shift()
      }
      last = here
    },
    finish: () => describe(depthsOf(sides), width, height),
  }
}

/** Dark by at least this much, and by so many deviations of what is measured elsewhere. */
const MIN_STOPS = 0.09
const MIN_DEVIATIONS = 5
/** Grown around that to where so much of the depth is left. */
const RIM_SHARE = 0.12
const MIN_CELLS_DARK = 4
const LARGEST_RADIUS_CELLS = 16
/** Of the light that a round soft blob of the same moments takes, so much may lie elsewhere. */
const MISFIT_MOST = 0.45
const LONGEST = 2.2

function describe({ depths, lighter, isOneSided }: Depths, width: number, height: number): SeenMote[] {
  const known = depths.filter((depth) => !Number.isNaN(depth))
  if (known.length < 0.1 * depths.length) return []
  const middle = medianOf(known)
  const deviation = 1.4826 * medianOf(known.map((depth) => Math.abs(depth - middle)))
  const smooth = smoothed(depths, middle, width, height)
  const exactly = depths.map((depth) => (Number.isNaN(depth) ? 0 : depth - middle))
  const limit = -Math.max(MIN_STOPS, MIN_DEVIATIONS * deviation)
  const taken = new Uint8Array(depths.length)
  const seeds = [...smooth.keys()].filter((i) => smooth[i]! < limit).sort((a, b) => smooth[a]! - smooth[b]!)
  const motes: SeenMote[] = []
  for (const seed of seeds) {
    if (taken[seed]) continue
    const cells = grown(smooth, seed, RIM_SHARE * smooth[seed]!, taken, width)
    const mote =
      cells.length < MIN_CELLS_DARK
        ? null
        : fitted(cells, { smooth, exact: exactly, lighter, isOneSided, width, height }, deviation)
    if (mote) motes.push(mote)
  }
  return motes
}

/** A mean of 3 × 3, less the picture's own level. */
function smoothed(depths: Float32Array, middle: number, width: number, height: number): Float32Array {
  const out = new Float32Array(depths.length)
  for (let row = 1; row < height - 1; row++) {
    for (let col = 1; col < width - 1; col++) {
      let [sum, weight] = [0, 0]
      for (let dy = -1; dy <= 1; dy++) {
        for (let dx = -1; dx <= 1; dx++) {
          const depth = depths[(row + dy) * width + col + dx]!
          if (Number.isNaN(depth)) continue
          const w = (2 - Math.abs(dx)) * (2 - Math.abs(dy))
          sum += w * (depth - middle)
          weight += w
        }
      }
      out[row * width + col] = weight >= 8 ? sum / weight : 0
    }
  }
  return out
}

/** Cells darker than `limit` that hang together with the seed. */
function grown(
  depths: Float32Array,
  seed: number,
  limit: number,
  taken: Uint8Array,
  width: number,
): number[] {
  const cells = [seed]
  taken[seed] = 1
  for (let at = 0; at < cells.length; at++) {
    for (const step of [-1, 1, -width, width]) {
      const next = cells[at]! + step
      if (next < 0 || next >= depths.length || taken[next] || !(depths[next]! < limit)) continue
      taken[next] = 1
      cells.push(next)
    }
  }
  return cells
}

/** What the sides say of a mote is alike; where things move past each other, one of them is wrong. */
const AGREE_FROM = 0.45

/** What the side that says less says, as a share of what is believed. */
function agreement(cells: readonly number[], { exact, lighter }: DepthMap): number {
  let [less, believed] = [0, 0]
  for (const cell of cells) {
    if (Number.isNaN(lighter[cell]!)) continue
    less += Math.min(0, lighter[cell]!)
    believed += exact[cell]!
  }
  return believed < 0 ? less / believed : 0
}

/** (1 − r²)² has an eighth of its squared radius as variance along each axis. */
const VARIANCES_A_RADIUS = 8
/** What averaging over cells and their neighbours has added to it. */
const BLUR_VARIANCE = 1 / 12 + 0.5

/** What is missing of the light, in stops, for each cell. */
interface DepthMap {
  /** Where it lies and what shape it has is told from a mean over neighbours, how deep it is from each cell itself. */
  readonly smooth: Float32Array
  readonly exact: Float32Array
  readonly lighter: Float32Array
  readonly isOneSided: Uint8Array
  readonly width: number
  readonly height: number
}

function fitted(cells: readonly number[], map: DepthMap, deviation: number): SeenMote | null {
  const { smooth: depths, width } = map
  if (agreement(cells, map) < AGREE_FROM) return null
  let [mass, x, y] = [0, 0, 0]
  for (const cell of cells) {
    const weight = -depths[cell]!
    mass += weight
    x += weight * ((cell % width) + 0.5)
    y += weight * (Math.floor(cell / width) + 0.5)
  }
  x /= mass
  y /= mass
  let [xx, xy, yy] = [0, 0, 0]
  for (const cell of cells) {
    const weight = -depths[cell]! / mass
    const [dx, dy] = [(cell % width) + 0.5 - x, Math.floor(cell / width) + 0.5 - y]
    xx += weight * dx * dx
    xy += weight * dx * dy
    yy += weight * dy * dy
  }
  const [half, apart] = [(xx + yy) / 2, Math.sqrt(squared((xx - yy) / 2) + xy * xy)]
  const [long, short] = [half + apart, half - apart].map((variance) =>
    Math.sqrt(VARIANCES_A_RADIUS * Math.max(0.1, variance - BLUR_VARIANCE)),
  )
  if (long! > LARGEST_RADIUS_CELLS || long! > LONGEST * short!) return null
  const turnRad = 0.5 * atan2(2 * xy, xx - yy)
  // What was cut off at the rim is made up for: the blob of these proportions that fits best.
  const blobs = SCALES.map((scale) =>
    deepened(map, { x, y, long: scale * long!, short: scale * short!, turnRad }),
  )
  const isOneSided = cells.filter((cell) => map.isOneSided[cell] === 1).length > cells.length / 2
  const blob = blobs.reduce((best, one) => (one.misfit < best.misfit ? one : best))
  const misfit = blob.darkMisfit
  if (misfit > MISFIT_MOST) return null
  const strength = Math.min(1, (-blob.deepest / Math.max(MIN_STOPS, MIN_DEVIATIONS * deviation) - 1) / 2)
  const sure = 0.5 + 0.3 * strength + 0.2 * (1 - misfit / MISFIT_MOST)
  const mote: Mote = {
    kind: 'mote',
    x: x * CELL_PX,
    y: y * CELL_PX,
    radiusXPx: blob.long * CELL_PX,
    radiusYPx: blob.short * CELL_PX,
    turnDeg: (turnRad * 180) / Math.PI,
    depthStops: blob.deepest,
    sure: Math.round(100 * (isOneSided ? Math.min(sure, SURE_ONE_SIDED) : sure)) / 100,
    why: `Takes ${(-blob.deepest).toFixed(1)} stops of whatever passes behind it.${
      isOneSided
        ? ' So near the edge it is compared with one side only: look whether it is no shade of something brighter.'
        : ''
    }`,
  }
  return { mote, isOneSided }
}

const SURE_ONE_SIDED = 0.6

/** Of the measured radius: what is tried. */
const SCALES = [1, 1.06, 1.12, 1.18, 1.24, 1.3, 1.36] as const

interface Blob {
  readonly x: number
  readonly y: number
  readonly long: number
  readonly short: number
  readonly turnRad: number
}

/**
 * The depth that fits best in least squares, and how much of what is measured in and around it is not that blob: a share of its mass. A large mote is
 * laid over its own place where the picture has not moved far enough, and the place beside it seems too bright then: that has no part in `darkMisfit`.
 */
function deepened(
  { smooth, exact, width, height }: DepthMap,
  blob: Blob,
): Blob & { readonly deepest: number; readonly misfit: number; readonly darkMisfit: number } {
  const { x, y, long, short, turnRad } = blob
  const [c, s] = [cos(turnRad), sin(turnRad)]
  const reach = Math.ceil(1.3 * long) + 1
  const [cells, shapes]: [number[], number[]] = [[], []]
  let [product, square, exactProduct] = [0, 0, 0]
  for (let row = Math.max(0, Math.floor(y) - reach); row <= Math.min(height - 1, y + reach); row++) {
    for (let col = Math.max(0, Math.floor(x) - reach); col <= Math.min(width - 1, x + reach); col++) {
      const [dx, dy] = [col + 0.5 - x, row + 0.5 - y]
      const r = squared((dx * c + dy * s) / long) + squared((dy * c - dx * s) / short)
      if (r > 1.6) continue
      const shape = r < 1 ? squared(1 - r) : 0
      cells.push(row * width + col)
      shapes.push(shape)
      product += shape * smooth[row * width + col]!
      exactProduct += shape * exact[row * width + col]!
      square += shape * shape
    }
  }
  const shown = product / square
  let [off, darkOff, mass] = [0, 0, 0]
  cells.forEach((cell, i) => {
    off += Math.abs(smooth[cell]! - shown * shapes[i]!)
    darkOff += Math.abs(Math.min(0, smooth[cell]!) - shown * shapes[i]!)
    mass -= shown * shapes[i]!
  })
  const share = (part: number) => (shown < 0 ? part / mass : Infinity)
  return { ...blob, deepest: exactProduct / square, misfit: share(off), darkMisfit: share(darkOff) }
}

const squared = (value: number): number => value * value
