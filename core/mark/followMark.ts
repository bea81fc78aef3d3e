/**
 * Where a mark lies on every frame, by its own picture: what it adds and lets through stays the same, whatever is behind it. Each frame's
 * place is corrected by Gauss-Newton on the difference between the plate and the mark laid over the ground.
 *
 * Source: S. Baker, I. Matthews, "Lucas-Kanade 20 years on", Int. J. Computer Vision 56(3), 2004: forward additive, for a shift.
 */
import { sampleManyInto } from '../image/sample'
import type { Raster } from '../image/raster'
import { withKernelMemory } from '../kernels/memory'
import type { RunContext } from '../shot/context'
import type { EstimatedMark } from './estimateMark'
import { groundUnder, type Ground, type MarkFootage } from './groundUnder'
import { layerOfMark } from '../image/markPicture'
import { gridOfOpacity, type MarkPlace } from './markPlaces'
import { searchMark } from './searchMark'

export interface FollowedPlace extends MarkPlace {
  /** 0 to 1: how much of the mark's change of the plate is explained there. */
  readonly sure: number
}

const MIN_OPACITY = 0.03
const AROUND_PX = 6
const STEPS = 8
const DONE_PX = 0.01
/** Fitted from where it is expected, a mark is not further off than this, px; less sure, it is looked for all around. */
const MAX_OFF_PX = 6
const SEARCH_BELOW = 0.5

/** @param places  Where it is expected. @returns null when it was stopped. */
export async function followMark(
  footage: MarkFootage,
  mark: EstimatedMark,
  places: readonly MarkPlace[],
  context: RunContext,
): Promise<FollowedPlace[] | null> {
  const rect = { col: mark.col, row: mark.row, width: mark.width, height: mark.height }
  const grid = gridOfOpacity(rect, mark.opacity, MIN_OPACITY, AROUND_PX)
  const followed: FollowedPlace[] = []
  for (const [done, place] of places.entries()) {
    const ground = await groundUnder(footage, grid, place, context)
    if (context.shouldStop()) return null
    let found = ground ? placed(mark, ground, place) : { ...place, sure: 0 }
    if (ground && found.sure < SEARCH_BELOW) {
      const elsewhere = await searchMark(footage, mark, place, context)
      if (context.shouldStop()) return null
      const other = elsewhere && placed(mark, elsewhere.ground, elsewhere.place)
      if (other && other.sure > found.sure) found = other
    }
    followed.push(found)
    context.onProgress?.(done + 1, places.length)
  }
  return followed
}

function placed(mark: EstimatedMark, ground: Ground, place: MarkPlace): FollowedPlace {
  const lost: FollowedPlace = { ...place, sure: 0 }
  const fit = new ShiftFit(mark, ground, place)
  let { dx, dy } = place
  for (let step = 0; step < STEPS; step++) {
    const by = fit.stepFrom(dx, dy)
    if (!by) return lost
    dx += Math.max(-1, Math.min(1, by.dx))
    dy += Math.max(-1, Math.min(1, by.dy))
    if (Math.abs(dx - place.dx) > MAX_OFF_PX || Math.abs(dy - place.dy) > MAX_OFF_PX) return lost
    if (Math.abs(by.dx) < DONE_PX && Math.abs(by.dy) < DONE_PX) break
  }
  return { frame: place.frame, dx, dy, sure: fit.sure }
}

/** Differences to either side are taken over so much, px. */
const HALF_PX = 0.5

/** The mark laid over the ground of one frame, at any shift. */
class ShiftFit {
  /** 0 to 1: how much of what the mark changes it explained at the shift that was asked for last. */
  sure = 0
  readonly #layer: Raster
  readonly #ground: Ground
  readonly #pixels: readonly number[]
  /** Of each pixel its place in the mark, where that is not shifted. */
  readonly #unshifted: Float32Array

  constructor(mark: EstimatedMark, ground: Ground, place: MarkPlace) {
    this.#layer = layerOfMark(mark)
    this.#ground = ground
    const { rect } = ground
    const isNear = (at: number, extent: number) => at > -MAX_OFF_PX && at < extent + MAX_OFF_PX
    const pixels: number[] = []
    const unshifted: number[] = []
    for (let at = 0; at < rect.width * rect.height; at++) {
      const x = (at % rect.width) + rect.col + 0.5 - mark.col
      const y = Math.floor(at / rect.width) + rect.row + 0.5 - mark.row
      if (!isNear(x - place.dx, mark.width) || !isNear(y - place.dy, mark.height)) continue
      pixels.push(at)
      unshifted.push(x, y)
    }
    this.#pixels = pixels
    this.#unshifted = Float32Array.from(unshifted)
  }

  /** Colours times opacity and opacity, of every pixel. Beyond the picture of the mark there is none of it. */
  #readAt(dx: number, dy: number): Float32Array {
    const { width, height, channels, data } = this.#layer
    const positions = this.#unshifted.map((value, i) => value - (i % 2 === 0 ? dx : dy))
    const out = new Float32Array(this.#pixels.length * channels)
    withKernelMemory(data.byteLength + positions.byteLength + out.byteLength + 8192, (scope) =>
      sampleManyInto(out, this.#layer, positions, 'bicubic', scope),
    )
    for (let k = 0; k < this.#pixels.length; k++) {
      const [x, y] = [positions[2 * k]!, positions[2 * k + 1]!]
      if (x < 0 || y < 0 || x > width || y > height) out.fill(0, k * channels, (k + 1) * channels)
    }
    return out
  }

  /** The step of Gauss and Newton; null where the mark has nothing to be told by. */
  stepFrom(dx: number, dy: number): { readonly dx: number; readonly dy: number } | null {
    const { plate, ground } = this.#ground
    const { channels } = plate
    const planes = this.#layer.channels
    const here = this.#readAt(dx, dy)
    const [right, left] = [this.#readAt(dx + HALF_PX, dy), this.#readAt(dx - HALF_PX, dy)]
    const [below, above] = [this.#readAt(dx, dy + HALF_PX), this.#readAt(dx, dy - HALF_PX)]
    let [xx, xy, yy, ex, ey, off, changed] = [0, 0, 0, 0, 0, 0, 0]
    for (let k = 0; k < this.#pixels.length; k++) {
      const from = this.#pixels[k]! * channels
      const opacity = k * planes + planes - 1
      const [opacityX, opacityY] = [right[opacity]! - left[opacity]!, below[opacity]! - above[opacity]!]
      for (let c = 0; c < channels; c++) {
        const at = k * planes + c
        const bare = ground.data[from + c]!
        const error = plate.data[from + c]! - (1 - here[opacity]!) * bare - here[at]!
        const slopeX = right[at]! - left[at]! - opacityX * bare
        const slopeY = below[at]! - above[at]! - opacityY * bare
        xx += slopeX * slopeX
        xy += slopeX * slopeY
        yy += slopeY * slopeY
        ex += slopeX * error
        ey += slopeY * error
        off += error * error
        const change = plate.data[from + c]! - bare
        changed += change * change
      }
    }
    this.sure = changed > 0 ? Math.max(0, 1 - off / changed) : 0
    const determinant = xx * yy - xy * xy
    if (!(determinant > 1e-12)) return null
    return { dx: (yy * ex - xy * ey) / determinant, dy: (xx * ey - xy * ex) / determinant }
  }
}
