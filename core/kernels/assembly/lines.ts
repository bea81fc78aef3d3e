// How well a line of a known profile fits each place of a straightened picture.

/**
 * For each used row and each of `places` offsets the weighted mean, over the profile's columns, of the squared difference from
 * it in variances, each up to `most`. `strip` is interleaved floats, `width` columns a row; the profile's first column
 * lies on column `first` of the strip at place 0, and one column further for each place. `levels` and `scales` hold one
 * float for each column and channel of the profile: what it is, and its weight over its variance. `weights` is one float for
 * each column. Rows that are not used stay as they are.
 */
export function lineCosts(
  strip: usize, width: i32, height: i32, channels: i32, isUsed: usize, levels: usize, scales: usize, weights: usize,
  columns: i32, first: i32, places: i32, most: f32, out: usize,
): void {
  for (let row = 0; row < height; row++) {
    if (load<u8>(isUsed + row) == 0) continue
    const line = strip + (<usize>(row * width * channels) << 2)
    const to = out + (<usize>(row * places) << 2)
    for (let place = 0; place < places; place++) {
      let from = line + (<usize>((first + place) * channels) << 2)
      let at: usize = 0
      let total: f32 = 0
      for (let column = 0; column < columns; column++) {
        let sum: f32 = 0
        for (let ch = 0; ch < channels; ch++) {
          const off = load<f32>(from) - load<f32>(levels + at)
          sum += off * off * load<f32>(scales + at)
          from += 4
          at += 4
        }
        total += load<f32>(weights + (<usize>column << 2)) * min<f32>(sum, most)
      }
      store<f32>(to + (<usize>place << 2), total)
    }
  }
}

/**
 * What a line of two edges costs at each of `places` offsets of the used rows: less, the stronger both its edges are. `slope`
 * is a plane of floats, `width` a row; the edges of a line at place 0 lie `halves` columns (f64, one for each row) to either
 * side of column `first`. `fall` is −1 where brightness falls at the right edge, 1 where it rises. Rows that are not used stay
 * as they are. Returns the sum of all sizes.
 */
export function edgeCosts(
  slope: usize, width: i32, height: i32, isUsed: usize, halves: usize, first: i32, places: i32, fall: f32, out: usize,
): f64 {
  let sum: f64 = 0
  for (let row = 0; row < height; row++) {
    if (load<u8>(isUsed + row) == 0) continue
    const line = slope + (<usize>(row * width) << 2)
    const half = load<f64>(halves + (<usize>row << 3))
    const to = out + (<usize>(row * places) << 2)
    for (let place = 0; place < places; place++) {
      const left = between(line, width, <f64>(first + place) - half)
      const right = fall * between(line, width, <f64>(first + place) + half)
      // Both edges must be there: one strong one alone is somebody else's.
      const response = left < right ? left + <f32>0.3 * right : right + <f32>0.3 * left
      sum += <f64>abs(response)
      store<f32>(to + (<usize>place << 2), -response)
    }
  }
  return sum
}

/** A row of floats read between columns; beyond its ends, at them. */
// @ts-ignore: decorator
@inline
function between(line: usize, width: i32, column: f64): f32 {
  const at = min(max(column, 0), <f64>width - 1.001)
  const left = <i32>at
  const from = line + (<usize>left << 2)
  const a = load<f32>(from)
  return a + <f32>(at - <f64>left) * (load<f32>(from, 4) - a)
}

/**
 * The chain of places, one a row, with the least sum of costs and of `stepCost` times the square of each step; steps of up to
 * `most` places. `sums` is scratch of 2 * places f32, `came` of places * rows bytes; `chain` gets an i32 a row.
 */
export function leastChain(
  costs: usize, places: i32, rows: i32, stepCost: f32, most: i32, sums: usize, came: usize, chain: usize,
): void {
  let now = sums
  let next = sums + (<usize>places << 2)
  memory.copy(now, costs, <usize>places << 2)
  for (let row = 1; row < rows; row++) {
    const line = costs + (<usize>(row * places) << 2)
    for (let place = 0; place < places; place++) {
      let least: f32 = Infinity
      let step = 0
      for (let move = max(-most, -place); move <= min(most, places - 1 - place); move++) {
        const cost = load<f32>(now + (<usize>(place + move) << 2)) + stepCost * <f32>(move * move)
        if (cost < least) {
          least = cost
          step = move
        }
      }
      store<f32>(next + (<usize>place << 2), least + load<f32>(line + (<usize>place << 2)))
      store<i8>(came + row * places + place, <i8>step)
    }
    const swapped = now
    now = next
    next = swapped
  }
  let place = 0
  for (let at = 1; at < places; at++) if (load<f32>(now + (<usize>at << 2)) < load<f32>(now + (<usize>place << 2))) place = at
  for (let row = rows - 1; row >= 0; row--) {
    store<i32>(chain + (<usize>row << 2), place)
    if (row > 0) place += <i32>load<i8>(came + row * places + place)
  }
}

/**
 * Sums, squares and counts of what columns around a line hold, over the used rows: column `k` of 2 * reach + 1 lies k - reach
 * columns from where the row's offset puts the centre, read between columns. With `means` and `variances` (0: without), what
 * is further than `limit` deviations from them is left out. All of `sums`, `squares` and `counts` are f64, begun at 0.
 */
export function columnSums(
  strip: usize, width: i32, height: i32, channels: i32, colours: i32, isUsed: usize, centres: usize, reach: i32,
  means: usize, variances: usize, limit: f64, sums: usize, squares: usize, counts: usize,
): void {
  for (let row = 0; row < height; row++) {
    if (load<u8>(isUsed + row) == 0) continue
    const centre = load<f64>(centres + (<usize>row << 3))
    for (let column = -reach; column <= reach; column++) {
      const at = centre + <f64>column
      const left = <i32>Math.floor(at)
      if (left < 0 || left + 1 >= width) continue
      const share = at - <f64>left
      const from = strip + (<usize>((row * width + left) * channels) << 2)
      for (let c = 0; c < colours; c++) {
        const a = <f64>load<f32>(from + (<usize>c << 2)), b = <f64>load<f32>(from + (<usize>(c + channels) << 2))
        const value = a + share * (b - a)
        const k = <usize>((column + reach) * colours + c) << 3
        if (means != 0) {
          const off = value - load<f64>(means + k)
          if (off * off > limit * limit * load<f64>(variances + k)) continue
        }
        store<f64>(sums + k, load<f64>(sums + k) + value)
        store<f64>(squares + k, load<f64>(squares + k) + value * value)
        store<f64>(counts + k, load<f64>(counts + k) + 1)
      }
    }
  }
}

/**
 * For each straight run, from a place on the first row to one on the last, the sum over the used rows of what it costs less the
 * mean of its row: ground that is unlike the line everywhere tells nothing. Places are `step` apart, `side` of them: `sums` gets
 * side * side f32, the first place outermost.
 */
export function runSums(
  costs: usize, places: i32, rows: i32, isUsed: usize, step: i32, side: i32, sums: usize,
): void {
  memory.fill(sums, 0, <usize>(side * side) << 2)
  for (let row = 0; row < rows; row++) {
    if (load<u8>(isUsed + row) == 0) continue
    const line = costs + (<usize>(row * places) << 2)
    let mean: f32 = 0
    for (let place = 0; place < places; place++) mean += load<f32>(line + (<usize>place << 2))
    mean /= <f32>places
    const t = <f32>row / <f32>(rows - 1) * <f32>step
    for (let i = 0; i < side; i++) {
      const from = <f32>(step * i) + 0.5
      const to = sums + (<usize>(i * side) << 2)
      for (let j = 0; j < side; j++) {
        const place = <i32>(from + t * <f32>(j - i))
        const at = to + (<usize>j << 2)
        store<f32>(at, load<f32>(at) + load<f32>(line + (<usize>place << 2)) - mean)
      }
    }
  }
}
