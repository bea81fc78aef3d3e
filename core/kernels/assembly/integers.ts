// Integer samples to floats in the range 0 to 1: the quotient by the largest sample, rounded once, so that scaling back and
// rounding returns the sample.

export function integersToFloats8(src: usize, dst: usize, count: i32): void {
  const maximum = f32x4.splat(255)
  let i = 0
  for (; i + 8 <= count; i += 8) {
    const wide = i16x8.extend_low_i8x16_u(v128.load64_zero(src + i))
    const low = f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(wide))
    const high = f32x4.convert_i32x4_s(i32x4.extend_high_i16x8_u(wide))
    v128.store(dst + (i << 2), f32x4.div(low, maximum))
    v128.store(dst + (i << 2), f32x4.div(high, maximum), 16)
  }
  for (; i < count; i++) store<f32>(dst + (i << 2), <f32>load<u8>(src + i) / 255)
}

export function integersToFloats16(src: usize, dst: usize, count: i32): void {
  const maximum = f32x4.splat(65535)
  let i = 0
  for (; i + 8 <= count; i += 8) {
    const eight = v128.load(src + (i << 1))
    const low = f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(eight))
    const high = f32x4.convert_i32x4_s(i32x4.extend_high_i16x8_u(eight))
    v128.store(dst + (i << 2), f32x4.div(low, maximum))
    v128.store(dst + (i << 2), f32x4.div(high, maximum), 16)
  }
  for (; i < count; i++) store<f32>(dst + (i << 2), <f32>load<u16>(src + (i << 1)) / 65535)
}
