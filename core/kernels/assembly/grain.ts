// White film grain: a hash of (seed, frame, column, row, channel) and nothing else. The twin is grainAt in finish/grain.ts.

// @ts-ignore: decorator
@inline
function mix(value: u32): u32 {
  let h = value
  h = (h ^ (h >> 16)) * 0x7feb352d
  h = (h ^ (h >> 15)) * 0x846ca68b
  return h ^ (h >> 16)
}

const SQRT_3: f64 = 1.7320508075688772

/** The samples of one pixel, `channels` floats at `out`. @param line  What the row has made of the seed. */
// @ts-ignore: decorator
@inline
function grainInto(line: u32, col: i32, channels: i32, out: usize): void {
  const place = mix(line) + <u32>col * 0xc2b2ae35
  for (let c = 0; c < channels; c++) {
    const h = mix(place + <u32>c)
    const more = mix(h ^ 0x68bc21eb)
    const sum = (h & 0xffff) + (h >> 16) + (more & 0xffff) + (more >> 16)
    store<f32>(out + (<usize>c << 2), <f32>((<f64>sum / 65535 - 2) * SQRT_3))
  }
}

// @ts-ignore: decorator
@inline
function lineOf(seed: i32, frame: i32, row: i32): u32 {
  return mix(<u32>seed ^ (<u32>frame * 0x9e3779b1)) + <u32>row * 0x85ebca6b
}

/** Fills the samples of a rectangle whose first pixel lies at (col, row) of the picture. */
export function grainWhite(
  seed: i32, frame: i32, col: i32, row: i32, width: i32, height: i32, channels: i32, out: usize,
): void {
  for (let y = 0; y < height; y++) {
    const line = lineOf(seed, frame, row + y)
    for (let x = 0; x < width; x++) grainInto(line, col + x, channels, out + (<usize>((y * width + x) * channels) << 2))
  }
}

/** Fills the samples of single pixels: indices in a rectangle that is `width` wide. */
export function grainAtPixels(
  seed: i32, frame: i32, col: i32, row: i32, width: i32, pixels: usize, count: i32, channels: i32, out: usize,
): void {
  for (let i = 0; i < count; i++) {
    const pixel = load<i32>(pixels + (<usize>i << 2))
    const y = pixel / width
    grainInto(lineOf(seed, frame, row + y), col + pixel - y * width, channels, out + (<usize>(i * channels) << 2))
  }
}

/**
 * Adds grain to entries of an area. For each of `count` of them, `entries` holds where its values and the share of grain
 * that it still has lie, `grain` its grain of deviation 1. `levels` are deviations: a row of `steps` + 1 brightnesses, 0 to
 * 1, for each channel.
 */
export function addGrain(
  values: usize, kept: usize, entries: usize, count: i32, channels: i32, grain: usize, levels: usize, steps: i32,
  amount: f32,
): void {
  for (let k = 0; k < count; k++) {
    const entry = load<i32>(entries + (<usize>k << 2))
    const missing = amount * sqrt<f32>(max<f32>(0, 1 - load<f32>(kept + (<usize>entry << 2))))
    let at = values + (<usize>(entry * channels) << 2), made = grain + (<usize>(k * channels) << 2)
    let row = levels
    for (let c = 0; c < channels; c++) {
      const value = load<f32>(at)
      const step = <i32>(min<f32>(max<f32>(value, 0), 1) * <f32>steps + 0.5)
      store<f32>(at, value + missing * load<f32>(row + (<usize>step << 2)) * load<f32>(made))
      at += 4
      made += 4
      row += <usize>(steps + 1) << 2
    }
  }
}
