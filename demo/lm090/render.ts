/** Renders LM_090: for every direction the paving, the walls or the sky, and the tripod before them. */
import { atan2, cos, sin } from '../../core/kernels/exact'
import { createPlane, createRaster } from '../../core/image/raster'
import { expose, exposeMatte, filmGrain, type DemoShot } from '../shot'
import {
  EYE_M,
  LM_090,
  momentAt,
  STONE_M,
  TRIPOD,
  WALL_HEIGHT_M,
  WALL_M,
  type Leg,
  type Moment,
} from './scene'

type Direction = readonly [right: number, up: number, ahead: number]
type Light = readonly [number, number, number]

export const lm090: DemoShot = {
  description: LM_090,
  momentAt,
  async prepare() {
    const { width, height, seed, grainLevel8 } = LM_090
    const perPx = (2 * Math.PI) / width
    const headings = Array.from({ length: width }, (_, col) => 2 * Math.PI * ((col + 0.5) / width - 0.5))
    const [sines, cosines] = [
      headings.map((heading) => sin(heading)),
      headings.map((heading) => cos(heading)),
    ]
    return (frame) => {
      const moment = momentAt(frame)
      const [plate, truth] = [createRaster(width, height, 3), createRaster(width, height, 3)]
      const matte = createPlane(width, height)
      for (let row = 0; row < height; row++) {
        const pitch = Math.PI * (0.5 - (row + 0.5) / height)
        const [up, level] = [sin(pitch), cos(pitch)]
        for (let col = 0; col < width; col++) {
          const direction = [sines[col]! * level, up, cosines[col]! * level] as const
          const behind = squareAlong(direction, moment, perPx)
          const hidden = tripodAlong(direction, perPx)
          const pixel = row * width + col
          matte.data[pixel] = hidden?.cover ?? 0
          for (let c = 0; c < 3; c++) {
            truth.data[3 * pixel + c] = behind[c]!
            plate.data[3 * pixel + c] = hidden
              ? behind[c]! + hidden.cover * (hidden.light - behind[c]!)
              : behind[c]!
          }
        }
      }
      const grain = filmGrain(seed, frame, plate)
      return { ...expose(plate, truth, grain, () => grainLevel8), matte: exposeMatte(matte) }
    }
  },
}

/** What of the square lies in a direction, as light. @param perPx  Radians that a pixel is wide. */
function squareAlong([right, up, ahead]: Direction, moment: Moment, perPx: number): Light {
  const level = Math.sqrt(right * right + ahead * ahead)
  const wall = WALL_M / Math.max(level, 1e-6)
  if (up < 0 && -EYE_M / up < wall) {
    const away = -EYE_M / up
    return paving(moment.right + right * away, moment.ahead + ahead * away, (away * perPx) / -up)
  }
  const high = up * wall
  if (high < WALL_HEIGHT_M)
    return facade(atan2(right, ahead) * WALL_M + moment.right * (ahead / level), high + EYE_M, wall * perPx)
  const share = Math.min(1, up)
  return [0.32 + 0.25 * (1 - share), 0.45 + 0.24 * (1 - share), 0.68 + 0.16 * (1 - share)]
}

/** Stones of their own tone, worn and stained, with joints between. @param widePx  How wide a pixel is there, metres. */
function paving(x: number, z: number, widePx: number): Light {
  const row = Math.floor(z / STONE_M)
  const shifted = x + (row % 2 === 0 ? 0 : STONE_M / 2)
  const stone = Math.floor(shifted / STONE_M)
  const fine = Math.max(0, 1 - widePx / 0.08)
  const tone = 0.27 + 0.1 * fineness(widePx, STONE_M) * (hashed(stone, row) - 0.5)
  const stained = fineness(widePx, 0.5)
  const worn =
    (fine > 0 ? 0.07 * fine * (smoothNoise(x * 9, z * 9) - 0.5) : 0) +
    (stained > 0 ? 0.05 * stained * (smoothNoise(x * 2.3 + 40, z * 2.3) - 0.5) : 0)
  const toJoint = Math.min(joint(shifted), joint(z))
  const half = 0.009 + widePx / 2
  const isJoint =
    Math.max(0, Math.min(1, (half - toJoint) / Math.max(widePx, 0.006))) *
    Math.min(1, 0.018 / Math.max(widePx, 0.018))
  const light = Math.max(0.02, (tone + worn) * (1 - 0.6 * isJoint))
  return [light * 1.04, light, light * 0.9]
}

const fineness = (widePx: number, sizeM: number): number => Math.max(0, 1 - widePx / sizeM)
const joint = (at: number): number => {
  const share = at / STONE_M - Math.floor(at / STONE_M)
  return Math.min(share, 1 - share) * STONE_M
}

/** Piers and arches, a band above them, windows. */
function facade(along: number, high: number, widePx: number): Light {
  const bay = along / 3.4 - Math.floor(along / 3.4)
  const soft = Math.max(widePx / 3.4, 0.004)
  const inBay = Math.abs(bay - 0.5)
  const top = 2.6 + Math.sqrt(Math.max(0, 0.34 * 0.34 - inBay * inBay)) * 3.4
  const isOpen = smooth((0.34 - inBay) / soft) * smooth((top - high) / Math.max(widePx, 0.02))
  const isWindow = smooth((0.14 - inBay) / soft) * smooth((high - 4.6) / 0.05) * smooth((6.3 - high) / 0.05)
  const band = smooth((high - 4.0) / 0.03) * smooth((4.2 - high) / 0.03)
  const plain = 0.4 + 0.05 * (smoothNoise(along * 1.7, high * 1.7) - 0.5) + 0.08 * band
  const dark = Math.max(isOpen * 0.82, isWindow * 0.7)
  const light = plain * (1 - dark)
  return [light * 1.12, light, light * 0.82]
}

const smooth = (x: number): number => {
  const at = Math.min(1, Math.max(0, x + 0.5))
  return at * at * (3 - 2 * at)
}

/** How far the tripod covers a direction, and how light it is there. */
function tripodAlong(
  direction: Direction,
  perPx: number,
): { readonly cover: number; readonly light: number } | null {
  if (direction[1] > -0.5) return null
  let [cover, light] = [0, 0]
  for (const leg of TRIPOD) {
    const seen = legAlong(direction, leg)
    const share = Math.min(1, Math.max(0, (leg.radius - seen.off) / (seen.away * perPx) + 0.5))
    if (share <= cover) continue
    cover = share
    light = 0.045 + 0.11 * Math.max(0, 1 - seen.off / leg.radius)
  }
  return cover > 0 ? { cover, light } : null
}

/** How near a ray from the camera comes to a leg, and how far away that is. */
function legAlong(d: Direction, { from, to }: Leg): { readonly off: number; readonly away: number } {
  const v = [to[0] - from[0], to[1] - from[1], to[2] - from[2]] as const
  const dot = (a: Direction, b: Direction) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
  const [vv, dv, df, vf] = [dot(v, v), dot(d, v), dot(d, from), dot(v, from)]
  // The places on both lines that are nearest to each other; on the leg between its ends.
  const along = Math.min(1, Math.max(0, (dv * df - vf) / Math.max(1e-9, vv - dv * dv)))
  const at = [from[0] + along * v[0], from[1] + along * v[1], from[2] + along * v[2]] as const
  const away = Math.max(0.05, dot(d, at))
  const [x, y, z] = [at[0] - away * d[0], at[1] - away * d[1], at[2] - away * d[2]]
  return { off: Math.sqrt(x * x + y * y + z * z), away }
}

/** A number of 0 to 1 for whole numbers. */
function hashed(x: number, y: number): number {
  let mixed = Math.imul(x | 0, 0x27d4eb2d) ^ Math.imul(y | 0, 0x165667b1)
  mixed = Math.imul(mixed ^ (mixed >>> 15), 0x2c1b3c6d)
  mixed = Math.imul(mixed ^ (mixed >>> 12), 0x297a2d39)
  return ((mixed ^ (mixed >>> 15)) >>> 0) / 4294967296
}

function smoothNoise(x: number, y: number): number {
  const [col, row] = [Math.floor(x), Math.floor(y)]
  const [u, v] = [smoothStep(x - col), smoothStep(y - row)]
  const [a, b] = [hashed(col, row), hashed(col + 1, row)]
  const [c, d] = [hashed(col, row + 1), hashed(col + 1, row + 1)]
  return (a + u * (b - a)) * (1 - v) + (c + u * (d - c)) * v
}

const smoothStep = (t: number): number => t * t * (3 - 2 * t)
