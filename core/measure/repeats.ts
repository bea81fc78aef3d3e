/** Whether a copy shows as one: something recognisable in it that is visible where it came from. */
import type { Raster } from '../image/raster'
import type { Rect } from '../image/rect'

const BLOCK_PX = 24
const STEP_PX = 7 // between places that are compared with: odd, so that tiles do not keep out of step with it
const MIN_PLACES = 100 // of them, for a judgement
const BLOCKS = 3
const FAINT = 0.03 * 0.03 // variance below which a block holds nothing that an eye would know again

/**
 * Looks for the blocks of a source with most contrast, and for the likest other place around each: texture has
 * many likes, a feature has none.
 *
 * @param picture  The surroundings, grey or colour. @param source  Where the copy came from, inside the picture.
 * @param mayCompare  Whether a pixel (col, row) of the picture may be part of a likeness: not the copy itself.
 * @returns 0 when everything in the source is found again and again around it; towards 1 for something unique.
 * Null where the source or what lies around it is too small to tell.
 */
export function measureRepeat(
  picture: Raster,
  source: Rect,
  mayCompare: (col: number, row: number) => boolean,
): number | null {
  const grey = greyOf(picture)
  const { width, height } = picture
  const blocks: { col: number; row: number; variance: number }[] = []
  for (
    let row = Math.max(0, source.row);
    row + BLOCK_PX <= Math.min(height, source.row + source.height);
    row += BLOCK_PX / 2
  ) {
    for (
      let col = Math.max(0, source.col);
      col + BLOCK_PX <= Math.min(width, source.col + source.width);
      col += BLOCK_PX / 2
    ) {
      if (!isOpen(col, row, mayCompare)) continue
      blocks.push({ col, row, variance: momentsAt(grey, width, col, row).variance })
    }
  }
  if (blocks.length === 0) return null
  blocks.sort((a, b) => b.variance - a.variance)
  let max = 0
  let compared = 0
  for (const block of blocks.slice(0, BLOCKS)) {
    if (block.variance < FAINT) break
    const { min, places } = likest(picture, block, source, mayCompare)
    if (places < MIN_PLACES) continue
    compared++
    // Two unrelated blocks of the same brightness differ by twice their variance.
    max = Math.max(max, Math.min(1, min / (2 * block.variance)))
  }
  return compared === 0 ? (blocks[0]!.variance < FAINT ? 0 : null) : max
}

const FOLLOWED = 4 // places of the grid that are followed up px by px

/** The least difference to another place, searched on a grid and then px by px around the best of it; and how large the grid was. */
function likest(
  picture: Raster,
  block: Corner,
  source: Rect,
  mayCompare: (col: number, row: number) => boolean,
) {
  const differenceAt = (col: number, row: number, max: number): number | null => {
    // A feature is like itself half a step on: only what lies outside its place counts.
    if (col < 0 || row < 0 || col + BLOCK_PX > picture.width || row + BLOCK_PX > picture.height) return null
    if (touches(col, row, source) || !isOpen(col, row, mayCompare)) return null
    return differenceOf(picture, block, { col, row }, max)
  }
  let best: (Corner & { difference: number })[] = []
  let places = 0
  for (let row = 0; row < picture.height; row += STEP_PX) {
    for (let col = 0; col < picture.width; col += STEP_PX) {
      const max = best.length === FOLLOWED ? best.at(-1)!.difference : Infinity
      const difference = differenceAt(col, row, max)
      if (difference === null) continue
      places++
      if (difference < max)
        best = [...best, { col, row, difference }]
          .sort((a, b) => a.difference - b.difference)
          .slice(0, FOLLOWED)
    }
  }
  let min = best[0]?.difference ?? Infinity
  for (const start of best) {
    let at = start
    for (const step of [4, 2, 1]) {
      const { col, row } = at
      for (const [dx, dy] of AROUND) {
        const difference = differenceAt(col + dx * step, row + dy * step, at.difference)
        if (difference !== null && difference < at.difference)
          at = { col: col + dx * step, row: row + dy * step, difference }
      }
    }
    min = Math.min(min, at.difference)
  }
  return { min, places }
}

const AROUND = [[-1, 0], [1, 0], [0, -1], [0, 1], [-1, -1], [1, -1], [-1, 1], [1, 1]] as const // prettier-ignore

const touches = (col: number, row: number, { col: left, row: top, width, height }: Rect): boolean =>
  col < left + width && row < top + height && col + BLOCK_PX > left && row + BLOCK_PX > top

interface Corner {
  readonly col: number
  readonly row: number
}

const isOpen = (col: number, row: number, may: (col: number, row: number) => boolean): boolean =>
  may(col, row) &&
  may(col + BLOCK_PX - 1, row) &&
  may(col, row + BLOCK_PX - 1) &&
  may(col + BLOCK_PX - 1, row + BLOCK_PX - 1)

function greyOf({ width, height, channels, data }: Raster): Float32Array {
  const grey = new Float32Array(width * height)
  const colours = Math.min(3, channels)
  for (let pixel = 0; pixel < grey.length; pixel++) {
    for (let c = 0; c < colours; c++) grey[pixel]! += data[pixel * channels + c]! / colours
  }
  return grey
}

function momentsAt(
  grey: Float32Array,
  width: number,
  col: number,
  row: number,
): { readonly mean: number; readonly variance: number } {
  let [sum, squares] = [0, 0]
  for (let y = row; y < row + BLOCK_PX; y++) {
    for (let x = col; x < col + BLOCK_PX; x++) {
      const value = grey[y * width + x]!
      sum += value
      squares += value * value
    }
  }
  const n = BLOCK_PX * BLOCK_PX
  return { mean: sum / n, variance: Math.max(0, squares / n - (sum / n) * (sum / n)) }
}

/** Mean squared difference of two blocks over all colours, every other pixel both ways; gives up above `most`. */
function differenceOf({ width, channels, data }: Raster, a: Corner, b: Corner, max: number): number {
  const colours = Math.min(3, channels)
  const n = (BLOCK_PX * BLOCK_PX * colours) / 4
  let sum = 0
  for (let y = 0; y < BLOCK_PX && sum <= max * n; y += 2) {
    for (let x = 0; x < BLOCK_PX; x += 2) {
      const [at, other] = [
        ((a.row + y) * width + a.col + x) * channels,
        ((b.row + y) * width + b.col + x) * channels,
      ]
      for (let c = 0; c < colours; c++) {
        const difference = data[at + c]! - data[other + c]!
        sum += difference * difference
      }
    }
  }
  return sum / n
}
