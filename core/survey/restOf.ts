/** Whether a clip's picture moves: over time a moving picture averages out, one at rest keeps its detail. */
import { medianOf } from '../image/median'
import type { ClipStatistics } from './clipStatistics'

/** Whether the picture moves; rests; or shows nothing but the sensor itself, its lens being covered. */
export type Rest = 'moves' | 'rests' | 'covered'

/** Share of a single frame's detail that the mean still has, from which on the camera rests. */
const RESTS_FROM = 0.5
/** Brighter than this, or with more of a course than this from place to place, the picture shows a scene. */
const COVERED = { levelMost: 0.12, courseMost: 2.5 / 255 } as const

export function restOf(clip: ClipStatistics): Rest {
  if (isCovered(clip)) return 'covered'
  return restShare(clip) > RESTS_FROM ? 'rests' : 'moves'
}

const BLOCK_PX = 16

/** Nothing but darkness, the same all over: blocks of the picture differ by no more than a sensor's own fall-off. */
function isCovered({ width, height, channels, mean }: ClipStatistics): boolean {
  const levels: number[] = []
  for (let top = 0; top + BLOCK_PX <= height; top += BLOCK_PX) {
    for (let left = 0; left + BLOCK_PX <= width; left += BLOCK_PX) {
      const values: number[] = []
      for (let row = top; row < top + BLOCK_PX; row += 2) {
        for (let col = left; col < left + BLOCK_PX; col += 2) {
          const at = (row * width + col) * channels
          for (let c = 0; c < Math.min(3, channels); c++) values.push(mean[at + c]!)
        }
      }
      // A sharp light is a scene's: what a block has most of is not all that counts.
      levels.push(medianOf(values))
    }
  }
  if (levels.length === 0) return false
  levels.sort((a, b) => a - b)
  return levels.at(-1)! < COVERED.levelMost && levels.at(-1)! - levels[0]! < COVERED.courseMost
}

/** Detail is told from samples this far to either side. */
const DETAIL_PX = 4
/** With less than this, in squares of 8-bit code values a sample, nothing tells whether the picture moves. */
const MIN_DETAIL = 0.7 / 65025

/** Share of one frame's detail that the mean of all still has: little where the picture moves, all of it before a locked camera. */
function restShare({ width, height, channels, mean, first, variance }: ClipStatistics): number {
  let [kept, had, count] = [0, 0, 0]
  for (let row = 0; row < height; row += 2) {
    for (let col = DETAIL_PX; col < width - DETAIL_PX; col += 2, count++) {
      const at = (row * width + col) * channels
      const [ofMean, ofFirst] = [detailAt(mean, at, channels), detailAt(first, at, channels)]
      kept += ofMean * ofMean
      had += ofFirst * ofFirst - 1.5 * Math.min(variance[at]!, 16 / 65025) // what grain alone has
    }
  }
  return had < MIN_DETAIL * count ? 1 : kept / had
}

/** More counts no more: a few bad pixels are not the picture. */
const MAX_DETAIL = 0.06

function detailAt(of: Float32Array, at: number, channels: number): number {
  const detail = of[at]! - (of[at - DETAIL_PX * channels]! + of[at + DETAIL_PX * channels]!) / 2
  return detail > MAX_DETAIL ? MAX_DETAIL : detail < -MAX_DETAIL ? -MAX_DETAIL : detail
}
