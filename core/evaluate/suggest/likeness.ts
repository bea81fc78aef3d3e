/** How unlike the rim of an area and that of a place to copy from are, over all frames looked at. */
import type { Shift } from '../../document/source'
import { cos, log, sin } from '../../kernels/exact'
import type { Size } from '../../image/rect'
import { comparedChannels, COVERED, HELD_OUT, type SuggestView } from './views'

const MEAN_SHARE = 0.25 // brightness can be agreed: it counts less than structure
const FAR_PRICE = 0.006 // per area's size of distance, in the plate's scale
const HOLDOUT_PRICE = 0.08 // for the share of frames on which a holdout hides the source
/** For a turn of 10°, and for a size that differs by a tenth: as it lies is better, where it is as good. */
const [TURN_PRICE, SIZE_PRICE] = [0.002, 0.002] as const
const COMPARED_SHARE = 1 / 3 // of the rim must be there to be compared

/** Room for the places that a shift leads to. */
export class Likeness {
  readonly #views: readonly SuggestView[]
  readonly #plate: Size
  /** The area's longer side, px. */
  readonly sizePx: number
  readonly #there: Float64Array

  constructor(views: readonly SuggestView[], plate: Size) {
    this.#views = views
    this.#plate = plate
    this.sizePx = sizeOf(views[0]!.area)
    const most = views.reduce((max, { area, rim }) => Math.max(max, area.length, rim.length), 0)
    this.#there = new Float64Array(most)
  }

  /**
   * What a shift costs over all frames, in the plate's scale; null where it leads outside or into something covered.
   * @param below  What costs more is of no use: null as soon as that is sure.
   */
  priceOf(shift: Shift, below = Infinity): number | null {
    let [sum, hidden] = [0, 0]
    const own = this.#ownPrice(shift)
    for (const view of this.#views) {
      const state = this.#stateOf(view, shift)
      if (state === null) return null
      if (state === HELD_OUT) {
        hidden++
        continue
      }
      const difference = this.#rimDifference(view, shift)
      if (difference === null) return null
      sum += difference
      if (sum / this.#views.length + own > below) return null
    }
    const seen = this.#views.length - hidden
    return seen === 0 ? null : sum / seen + own + (HOLDOUT_PRICE * hidden) / this.#views.length
  }

  #ownPrice({ dx, dy, turnDeg, scale }: Shift): number {
    return (
      (FAR_PRICE * Math.sqrt(dx * dx + dy * dy)) / this.sizePx +
      (TURN_PRICE * Math.abs(turnDeg)) / 10 +
      (SIZE_PRICE * Math.abs(log(scale))) / 0.1
    )
  }

  /** Whether the place that the area is copied from is free, or held out; null where it is not to be had. */
  #stateOf(view: SuggestView, shift: Shift): 0 | typeof HELD_OUT | null {
    const { rect, masked, area } = view
    const { width, height } = this.#plate
    const there = this.#lead(view, area, shift)
    let state: 0 | typeof HELD_OUT = 0
    for (let i = 0; i < area.length; i += 2) {
      const [x, y] = [there[i]!, there[i + 1]!]
      if (!(x >= 0 && y >= 0 && x < width && y < height)) return null
      const [col, row] = [Math.floor(x) - rect.col, Math.floor(y) - rect.row]
      if (col < 0 || row < 0 || col >= rect.width || row >= rect.height) return null
      const mark = masked[row * rect.width + col]
      if (mark === COVERED) return null
      if (mark === HELD_OUT) state = HELD_OUT
    }
    return state
  }

  /** Root mean square of the rim's differences, what is the same all round counting less. */
  #rimDifference(view: SuggestView, shift: Shift): number | null {
    const { picture, rect, rim, rimValues, masked } = view
    const { data, channels } = picture
    const compared = comparedChannels(picture)
    const there = this.#lead(view, rim, shift)
    const down = rect.width * channels
    const [sums, squares] = [
      [0, 0, 0],
      [0, 0, 0],
    ]
    let n = 0
    for (let i = 0; i < rim.length; i += 2) {
      const [x, y] = [there[i]! - 0.5 - rect.col, there[i + 1]! - 0.5 - rect.row]
      const [col, row] = [Math.floor(x + WHOLE), Math.floor(y + WHOLE)]
      if (!(col >= 0 && row >= 0 && col + 1 < rect.width && row + 1 < rect.height)) continue
      const pixel = row * rect.width + col
      if (masked[pixel] !== 0) continue
      const [right, below] = [x - col, y - row]
      n++
      for (let c = 0; c < compared; c++) {
        const at = pixel * channels + c
        const upper = data[at]! + right * (data[at + channels]! - data[at]!)
        const lower = data[at + down]! + right * (data[at + down + channels]! - data[at + down]!)
        const difference = rimValues[(i / 2) * compared + c]! - upper - below * (lower - upper)
        sums[c]! += difference
        squares[c]! += difference * difference
      }
    }
    if (n < (COMPARED_SHARE * rim.length) / 2) return null
    let total = 0
    for (let c = 0; c < compared; c++) {
      const mean = sums[c]! / n
      total += Math.max(0, squares[c]! / n - mean * mean) + MEAN_SHARE * mean * mean
    }
    return Math.sqrt(total / compared)
  }

  /** Where a shift leads places to, on the view's frame, px. */
  #lead(
    { motion, middle }: SuggestView,
    places: Float64Array,
    { dx, dy, turnDeg, scale }: Shift,
  ): Float64Array {
    const there = this.#there
    const turn = (turnDeg * Math.PI) / 180
    const [a, b] = turnDeg === 0 ? [scale, 0] : [scale * cos(turn), scale * sin(turn)]
    for (let i = 0; i < places.length; i += 2) {
      const [offX, offY] = [places[i]! - middle.x, places[i + 1]! - middle.y]
      const x = middle.x + a * offX - b * offY + dx
      const y = middle.y + b * offX + a * offY + dy
      if (!motion) {
        there[i] = x
        there[i + 1] = y
        continue
      }
      const w = 1 / (motion[6] * x + motion[7] * y + motion[8])
      there[i] = (motion[0] * x + motion[1] * y + motion[2]) * w
      there[i + 1] = (motion[3] * x + motion[4] * y + motion[5]) * w
    }
    return there
  }
}

/** Nearer to a whole pixel than this, it is that pixel. */
const WHOLE = 1e-6

function sizeOf(area: Float64Array): number {
  let [left, right, top, bottom] = [Infinity, -Infinity, Infinity, -Infinity]
  for (let i = 0; i < area.length; i += 2) {
    left = Math.min(left, area[i]!)
    right = Math.max(right, area[i]!)
    top = Math.min(top, area[i + 1]!)
    bottom = Math.max(bottom, area[i + 1]!)
  }
  return Math.max(right - left, bottom - top) + 1
}
