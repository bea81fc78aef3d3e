// Separable convolution of interleaved 32-bit float samples. Beyond the edge the edge pixel repeats.
// Symbols: n samples in a row (width * channels), r the radius in pixels, k the 2 r + 1 taps.
// Four samples are computed at once; each lane adds its taps in the same order as the plain twin.

/** dst = src convolved along rows. `taps` points at 2 * radius + 1 floats. */
export function convolveRows(
  src: usize, dst: usize, width: i32, height: i32, channels: i32, taps: usize, radius: i32,
): void {
  const n = width * channels
  const inset = min(radius * channels, n)
  const innerEnd = max(n - inset, inset)
  for (let row = 0; row < height; row++) {
    const line = src + ((row * n) << 2)
    const out = dst + ((row * n) << 2)
    let i = 0
    for (; i < inset; i++) store<f32>(out + (i << 2), edgeSample(line, i, width, channels, taps, radius))
    for (; i + 4 <= innerEnd; i += 4) {
      let sum = f32x4.splat(0)
      let from = line + ((i - radius * channels) << 2)
      for (let t = 0; t <= radius * 2; t++) {
        sum = f32x4.add(sum, f32x4.mul(v128.load(from), v128.load32_splat(taps + (t << 2))))
        from += channels << 2
      }
      v128.store(out + (i << 2), sum)
    }
    for (; i < n; i++) store<f32>(out + (i << 2), edgeSample(line, i, width, channels, taps, radius))
  }
}

function edgeSample(line: usize, i: i32, width: i32, channels: i32, taps: usize, radius: i32): f32 {
  const col = i / channels
  const channel = i - col * channels
  let sum: f32 = 0
  for (let t = 0; t <= radius * 2; t++) {
    const at = min(max(col + t - radius, 0), width - 1)
    sum += load<f32>(line + ((at * channels + channel) << 2)) * load<f32>(taps + (t << 2))
  }
  return sum
}

/** dst = src convolved along columns. */
export function convolveColumns(
  src: usize, dst: usize, width: i32, height: i32, channels: i32, taps: usize, radius: i32,
): void {
  const n = width * channels
  for (let row = 0; row < height; row++) {
    const out = dst + ((row * n) << 2)
    let i = 0
    for (; i + 4 <= n; i += 4) {
      let sum = f32x4.splat(0)
      for (let t = 0; t <= radius * 2; t++) {
        const at = min(max(row + t - radius, 0), height - 1)
        sum = f32x4.add(sum, f32x4.mul(v128.load(src + ((at * n + i) << 2)), v128.load32_splat(taps + (t << 2))))
      }
      v128.store(out + (i << 2), sum)
    }
    for (; i < n; i++) {
      let sum: f32 = 0
      for (let t = 0; t <= radius * 2; t++) {
        const at = min(max(row + t - radius, 0), height - 1)
        sum += load<f32>(src + ((at * n + i) << 2)) * load<f32>(taps + (t << 2))
      }
      store<f32>(out + (i << 2), sum)
    }
  }
}
