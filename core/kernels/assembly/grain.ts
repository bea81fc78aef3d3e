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

/** Fills the samples of every pixel whose `isMade` is not 0; the first pixel lies at (col, row) of the picture. */
export function grainWhite(
  seed: i32, frame: i32, col: i32, row: i32, width: i32, height: i32, channels: i32, isMade: usize, out: usize,
): void {
  const start = <u32>seed ^ (<u32>frame * 0x9e3779b1)
  for (let y = 0; y < height; y++) {
    const line = mix(start) + <u32>(row + y) * 0x85ebca6b
    for (let x = 0; x < width; x++) {
      const at = y * width + x
      if (load<u8>(isMade + at) == 0) continue
      const place = mix(line) + <u32>(col + x) * 0xc2b2ae35
      for (let c = 0; c < channels; c++) {
        const h = mix(place + <u32>c)
        const more = mix(h ^ 0x68bc21eb)
        const sum = (h & 0xffff) + (h >> 16) + (more & 0xffff) + (more >> 16)
        store<f32>(out + (<usize>(at * channels + c) << 2), <f32>((<f64>sum / 65535 - 2) * SQRT_3))
      }
    }
  }
}
