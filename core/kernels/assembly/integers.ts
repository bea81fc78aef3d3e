// Integer samples to floats in the range 0 to 1. The product is rounded once in 64 bits and once to
// 32: sample / maximum to the nearest float, so that scaling back and rounding returns the sample.

export function integersToFloats8(src: usize, dst: usize, count: i32): void {
  for (let i = 0; i < count; i++) store<f32>(dst + (i << 2), <f32>(<f64>load<u8>(src + i) / 255.0))
}

export function integersToFloats16(src: usize, dst: usize, count: i32): void {
  for (let i = 0; i < count; i++) store<f32>(dst + (i << 2), <f32>(<f64>load<u16>(src + (i << 1)) / 65535.0))
}
