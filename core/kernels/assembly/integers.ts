// Integer samples to floats in the range 0 to 1. Each quotient is rounded once in 64 bits and once to 32: sample / maximum to
// the nearest float, so that scaling back and rounding returns the sample.

const BYTES = 256
const quotients = memory.data(BYTES * 4)
let areKnown = false

export function integersToFloats8(src: usize, dst: usize, count: i32): void {
  if (!areKnown) {
    for (let i = 0; i < BYTES; i++) store<f32>(quotients + (i << 2), <f32>(<f64>i / 255.0))
    areKnown = true
  }
  for (let i = 0; i < count; i++) store<f32>(dst + (i << 2), load<f32>(quotients + (<i32>load<u8>(src + i) << 2)))
}

export function integersToFloats16(src: usize, dst: usize, count: i32): void {
  for (let i = 0; i < count; i++) store<f32>(dst + (i << 2), <f32>(<f64>load<u16>(src + (i << 1)) / 65535.0))
}
