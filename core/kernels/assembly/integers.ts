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

// And back, rounded to the nearest and limited to the range, in 64 bits, as a plain loop would do it. What is no number is 0.

export function floatsToIntegers8(src: usize, dst: usize, count: i32): void {
  for (let i = 0; i < count; i++) {
    const scaled = <f64>load<f32>(src + (<usize>i << 2)) * 255 + 0.5
    store<u8>(dst + <usize>i, <u8>(scaled > 0 ? <i32>min<f64>(255, scaled) : 0))
  }
}

export function floatsToIntegers16(src: usize, dst: usize, count: i32): void {
  for (let i = 0; i < count; i++) {
    const scaled = <f64>load<f32>(src + (<usize>i << 2)) * 65535 + 0.5
    store<u16>(dst + (<usize>i << 1), <u16>(scaled > 0 ? <i32>min<f64>(65535, scaled) : 0))
  }
}

// Opaque 8-bit pictures for a canvas, of three or four channels: the top eight bits of each sample. Four pixels at a time; what
// is loaded beyond the last sample is not used.

export function pictureOf8(src: usize, dst: usize, pixels: i32, channels: i32): void {
  const opaque = i32x4.splat(0xff000000)
  const step: usize = channels << 2
  let i = 0
  for (; i + 4 <= pixels; i += 4, src += step) {
    const samples = v128.load(src)
    const spread =
      channels === 3
        ? i8x16.shuffle(samples, samples, 0, 1, 2, 0, 3, 4, 5, 0, 6, 7, 8, 0, 9, 10, 11, 0)
        : samples
    v128.store(dst + (i << 2), v128.or(spread, opaque))
  }
  for (; i < pixels; i++, src += channels) {
    const color = <u32>load<u8>(src) | (<u32>load<u8>(src, 1) << 8) | (<u32>load<u8>(src, 2) << 16)
    store<u32>(dst + (i << 2), color | 0xff000000)
  }
}

export function pictureOf16(src: usize, dst: usize, pixels: i32, channels: i32): void {
  const step: usize = channels << 1
  for (let i = 0; i < pixels; i++, src += step) {
    const color = <u32>load<u8>(src, 1) | (<u32>load<u8>(src, 3) << 8) | (<u32>load<u8>(src, 5) << 16)
    store<u32>(dst + (i << 2), color | 0xff000000)
  }
}
