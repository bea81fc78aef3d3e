// The median of a disc at the nodes of a grid, pixels that are not known left out. Values are counted in 4081
// codes, so that 8-bit samples keep codes of their own; a coarse count of 64 codes each finds the place fast.
// A disc moves along a row of nodes pixel by pixel: what enters and leaves at its edge is all that changes.

const FINE: i32 = 4096
const COARSE: i32 = 64
const SCALE: f32 = 4080

/** Codes of samples, clamped to 0 to 1. */
export function medianCodes(src: usize, count: i32, codes: usize): void {
  for (let i = 0; i < count; i++) {
    const value = load<f32>(src + (<usize>i << 2))
    store<u16>(codes + (<usize>i << 1), <u16>(min<f32>(max<f32>(value, 0), 1) * SCALE + 0.5))
  }
}

// @ts-ignore: decorator
@inline
function count(codes: usize, known: usize, pixel: i32, channels: i32, fine: usize, coarse: usize, by: i32): i32 {
  if (load<u8>(known + pixel) == 0) return 0
  for (let c = 0; c < channels; c++) {
    const code = <i32>load<u16>(codes + ((<usize>(pixel * channels + c)) << 1))
    const at = fine + ((<usize>(c * FINE + code)) << 2)
    store<i32>(at, load<i32>(at) + by)
    const high = coarse + ((<usize>(c * COARSE + (code >> 6))) << 2)
    store<i32>(high, load<i32>(high) + by)
  }
  return by
}

function ranked(fine: usize, coarse: usize, rank: i32): i32 {
  let below = 0
  let high = 0
  while (true) {
    const here = load<i32>(coarse + (<usize>high << 2))
    if (below + here > rank) break
    below += here
    high++
  }
  let code = high << 6
  while (true) {
    below += load<i32>(fine + (<usize>code << 2))
    if (below > rank) return code
    code++
  }
}

/**
 * @param chords   For each row of the disc, −radius to radius, how far it reaches to either side.
 * @param work     (4096 + 64) * channels i32.
 * @param out      channels floats for each node; with an even number the mean of the middle two.
 * @param counts   i32 for each node: how many known pixels its disc has.
 */
export function medianNodes(
  codes: usize, known: usize, width: i32, height: i32, channels: i32, chords: usize, radius: i32,
  firstCol: i32, firstRow: i32, cols: i32, rows: i32, step: i32, work: usize, out: usize, counts: usize,
): void {
  const fine = work
  const coarse = work + (<usize>(FINE * channels) << 2)
  for (let j = 0; j < rows; j++) {
    const row = firstRow + j * step
    memory.fill(work, 0, <usize>((FINE + COARSE) * channels) << 2)
    let n = 0
    let col = firstCol
    for (let dy = -radius; dy <= radius; dy++) {
      const y = row + dy
      if (y < 0 || y >= height) continue
      const chord = load<i32>(chords + (<usize>(dy + radius) << 2))
      for (let x = max(col - chord, 0); x <= min(col + chord, width - 1); x++) n += count(codes, known, y * width + x, channels, fine, coarse, 1)
    }
    for (let i = 0; i < cols; i++) {
      const node = j * cols + i
      store<i32>(counts + (<usize>node << 2), n)
      for (let c = 0; c < channels; c++) {
        let value: f32 = 0
        if (n > 0) {
          const f = fine + (<usize>(c * FINE) << 2)
          const h = coarse + (<usize>(c * COARSE) << 2)
          const low = ranked(f, h, (n - 1) >> 1)
          const high = n & 1 ? low : ranked(f, h, n >> 1)
          value = <f32>(low + high) / (2 * SCALE)
        }
        store<f32>(out + (<usize>(node * channels + c) << 2), value)
      }
      if (i == cols - 1) break
      for (let move = 0; move < step; move++) {
        for (let dy = -radius; dy <= radius; dy++) {
          const y = row + dy
          if (y < 0 || y >= height) continue
          const chord = load<i32>(chords + (<usize>(dy + radius) << 2))
          const leaving = col - chord
          const entering = col + 1 + chord
          if (leaving >= 0 && leaving < width) n += count(codes, known, y * width + leaving, channels, fine, coarse, -1)
          if (entering >= 0 && entering < width) n += count(codes, known, y * width + entering, channels, fine, coarse, 1)
        }
        col++
      }
    }
  }
}
