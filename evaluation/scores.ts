/** How near a mended frame is to the truth, beside what an independent library makes of the same mattes. */
import { tracksById } from '../core/document/tracks'
import type { MendDocument } from '../core/document/document'
import { psnrOf } from '../core/measure/difference'
import { coverageOn } from './coverage'
import { inpaint, type OpenCv } from './opencv'
import type { Moment } from '../demo/lm010/scene'

/** Coverage of all mends of a document on a frame: the mattes that every method gets. */
export const coverageOf = ({ mends, tracks, plate }: MendDocument, frame: number): Float32Array =>
  coverageOn(mends, tracksById(tracks), frame, plate)

/** Inpaints where coverage is above 0 and blends by it, as our own fill is blended. */
export function inpaintBlended(
  cv: OpenCv,
  plate: Uint8Array,
  coverage: Float32Array,
  width: number,
  height: number,
  method: 'telea' | 'navier-stokes',
): Uint8Array {
  const hole = Uint8Array.from(coverage, (value) => (value > 0 ? 255 : 0))
  const filled = inpaint(cv, plate, width, height, hole, method)
  const out = plate.slice()
  for (let i = 0; i < coverage.length; i++) {
    if (coverage[i] === 0) continue
    for (let c = 3 * i; c < 3 * i + 3; c++)
      out[c] = Math.round(plate[c]! + coverage[i]! * (filled[c]! - plate[c]!))
  }
  return out
}

/** `ends`: within 3 px of where a thread touches the wing; `elsewhere`: the rest of the band before the tiles. */
export type Zone = 'sky' | 'tiles' | 'all' | 'ends' | 'elsewhere'

/** Mean squared errors by zone, gathered over frames. */
export class Score {
  readonly #sums = new Map<Zone, { sum: number; count: number }>()

  add(zone: Zone, squared: number): void {
    const entry = this.#sums.get(zone) ?? { sum: 0, count: 0 }
    entry.sum += squared
    entry.count++
    this.#sums.set(zone, entry)
  }

  meanSquare(zone: Zone): number {
    const { sum, count } = this.#sums.get(zone) ?? { sum: NaN, count: 1 }
    return sum / count
  }

  psnr(zone: Zone): number {
    return psnrOf(this.meanSquare(zone), 255)
  }
}

const END_PX = 3
/** The ridge of the middle roof; above it sky and town, below it tiles. */
const RIDGE_Y = 290

export function addFrame(
  score: Score,
  picture: Uint8Array,
  truth: Uint8Array,
  coverage: Float32Array,
  moment: Moment,
  width: number,
): void {
  for (let i = 0; i < coverage.length; i++) {
    if (coverage[i]! < 0.5) continue
    const [x, y] = [(i % width) + 0.5, Math.floor(i / width) + 0.5]
    const isNearEnd = moment.threads.some(
      ({ contact }) =>
        Math.hypot(x - contact.x, y - contact.y) <= END_PX + 4 && Math.abs(y - contact.y) <= END_PX,
    )
    for (let c = 3 * i; c < 3 * i + 3; c++) {
      const squared = (picture[c]! - truth[c]!) ** 2
      score.add('all', squared)
      score.add(y < RIDGE_Y ? 'sky' : 'tiles', squared)
      // The ends lie before tiles: compared with the rest of the band there, not with the easy sky.
      if (isNearEnd) score.add('ends', squared)
      else if (y >= RIDGE_Y) score.add('elsewhere', squared)
    }
  }
}
