/** Whether a line still shows where it was taken out. */
import { pathPointAt, type PathCurve } from '../geometry/pathCurve'
import type { Raster } from '../image/raster'
import type { Rect, Size } from '../image/rect'
import { sampleManyInto } from '../image/sample'
import { withKernelMemory } from '../kernels/memory'

export interface LineResidue {
  /** How far the middle of the path stands out from its sides where it does most, against the most beside it: 1 is usual. */
  readonly ratio: number
  /** Where it stands out most, px of the picture. */
  readonly x: number
  readonly y: number
}

/** From this ratio on the line is probably seen: LM_010 mended stays below 2.1, a path half a width off its line is well above. */
export const LINE_SHOWS_FROM = 2.2

const ALONG_PX = 4
const ROWS_EACH = 8 // of a window: 32 px
const GRAIN_FLOOR = 0.004 // about one 8-bit step: less is not seen
/** Across a line: three places in its middle, two beside it on either side; in shares of its half width, then px further out. */
const MIDDLE = [-0.6, 0, 0.6] as const
const BESIDE_PX = [1, 3] as const
const PLACES = MIDDLE.length + 2 * BESIDE_PX.length

/**
 * Measures a mended picture along a path.
 *
 * In windows along the path the mean of the middle is compared with the mean of both sides; the same is done
 * a path's width further out on either side, where nothing was changed. Line-shaped detail of the picture itself
 * therefore does not count.
 *
 * @param outerPx From the drawn edge to where coverage ends. @returns null for a path that is hardly in the picture.
 * Cost: 21 readings for every 4 px of length.
 */
export function measureLineResidue(
  picture: Raster,
  rect: Rect,
  size: Size,
  curve: PathCurve,
  outerPx: number,
): LineResidue | null {
  const rows = Math.max(1, Math.floor(curve.lengthPx / ALONG_PX))
  const { values, isSeen } = readAcross(picture, rect, size, curve, outerPx, rows)
  let [worst, worstRow, usual] = [-1, 0, 0]
  for (let begin = 0; begin + ROWS_EACH <= rows; begin += ROWS_EACH) {
    if (isSeen[begin] === 0 || isSeen[begin + ROWS_EACH - 1] === 0) continue
    const here = standOut(values, picture.channels, begin, 0)
    if (here > worst) [worst, worstRow] = [here, begin + ROWS_EACH / 2]
    usual = Math.max(
      usual,
      standOut(values, picture.channels, begin, 1),
      standOut(values, picture.channels, begin, 2),
    )
  }
  if (worst < 0) return null
  const { x, y } = pathPointAt(curve, worstRow * ALONG_PX)
  return { ratio: worst / Math.max(usual, GRAIN_FLOOR), x, y }
}

interface Readings {
  /** For each row three lines of places across the path, channels interleaved. */
  readonly values: Float32Array
  /** 1 for each row whose middle lies in the picture. */
  readonly isSeen: Uint8Array
}

const LINES = 3
/** A path that runs aslant has far more picture in its box than beside it: it is read piece by piece. */
const ROWS_AT_ONCE = 32

function readAcross(
  picture: Raster,
  rect: Rect,
  size: Size,
  curve: PathCurve,
  outerPx: number,
  rows: number,
): Readings {
  const half = Math.max(...curve.widths) / 2
  const side = half + Math.max(outerPx, 0)
  const lines = [0, -(2 * side + 8), 2 * side + 8]
  const each = LINES * PLACES
  const positions = new Float32Array(2 * rows * each)
  const isSeen = new Uint8Array(rows)
  let at = 0
  for (let row = 0; row < rows; row++) {
    const { x, y, tangentX, tangentY } = pathPointAt(curve, (row + 0.5) * ALONG_PX)
    isSeen[row] = x >= 0 && y >= 0 && x <= size.width && y <= size.height ? 1 : 0
    const put = (off: number) => {
      positions[at++] = x - tangentY * off - rect.col
      positions[at++] = y + tangentX * off - rect.row
    }
    for (const line of lines) {
      for (const share of MIDDLE) put(line + share * half)
      for (const out of BESIDE_PX) {
        put(line - side - out)
        put(line + side + out)
      }
    }
  }
  const values = new Float32Array(rows * each * picture.channels)
  withKernelMemory(picture.data.byteLength + positions.byteLength + values.byteLength, () => {
    for (let begin = 0; begin < rows; begin += ROWS_AT_ONCE) {
      const [from, to] = [begin * each, Math.min(begin + ROWS_AT_ONCE, rows) * each]
      const some = values.subarray(from * picture.channels, to * picture.channels)
      withKernelMemory(0, (inner) =>
        sampleManyInto(some, picture, positions.subarray(2 * from, 2 * to), 'bilinear', inner),
      )
    }
  })
  return { values, isSeen }
}

/** Difference of the middle and the mean of both sides over a window, the largest channel's. */
function standOut(values: Float32Array, channels: number, begin: number, line: number): number {
  let max = 0
  for (let channel = 0; channel < Math.min(channels, 3); channel++) {
    let [middle, beside] = [0, 0]
    for (let row = begin; row < begin + ROWS_EACH; row++) {
      const from = (row * 3 + line) * PLACES
      for (let k = 0; k < PLACES; k++) {
        const value = values[(from + k) * channels + channel]!
        if (k < MIDDLE.length) middle += value
        else beside += value
      }
    }
    max = Math.max(
      max,
      Math.abs(middle / (MIDDLE.length * ROWS_EACH) - beside / (2 * BESIDE_PX.length * ROWS_EACH)),
    )
  }
  return max
}
