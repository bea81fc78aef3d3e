// Laplace's equation on a list of unknowns with four neighbours each: the steps of conjugate gradients with a
// multigrid cycle before them. Every unknown is one vector of four floats, one for each channel.
// nb: four i32 for each unknown, n where there is none (slot n of every vector stays 0); w: their weights.

// @ts-ignore: decorator
@inline
function around(k: i32, nb: usize, w: usize, x: usize): v128 {
  const at = nb + ((k << 2) << 2)
  const wt = w + ((k << 2) << 2)
  let sum = f32x4.mul(v128.load32_splat(wt), v128.load(x + (<usize>load<i32>(at) << 4)))
  sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(wt, 4), v128.load(x + (<usize>load<i32>(at, 4) << 4))))
  sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(wt, 8), v128.load(x + (<usize>load<i32>(at, 8) << 4))))
  return f32x4.add(sum, f32x4.mul(v128.load32_splat(wt, 12), v128.load(x + (<usize>load<i32>(at, 12) << 4))))
}

/** One sweep of Gauss-Seidel; `inverse` holds 1 / diagonal. Backward is the transpose of forward. */
export function membraneSweep(n: i32, nb: usize, w: usize, inverse: usize, b: usize, x: usize, isBackward: i32): void {
  if (isBackward) {
    for (let k = n - 1; k >= 0; k--) {
      v128.store(x + (<usize>k << 4), f32x4.mul(v128.load32_splat(inverse + (k << 2)), f32x4.add(v128.load(b + (<usize>k << 4)), around(k, nb, w, x))))
    }
    return
  }
  for (let k = 0; k < n; k++) {
    v128.store(x + (<usize>k << 4), f32x4.mul(v128.load32_splat(inverse + (k << 2)), f32x4.add(v128.load(b + (<usize>k << 4)), around(k, nb, w, x))))
  }
}

/** coarse[parent] += b - A x; coarse must be zero. */
export function membraneRestrict(n: i32, nb: usize, w: usize, diagonal: usize, b: usize, x: usize, parent: usize, coarse: usize): void {
  for (let k = 0; k < n; k++) {
    const own = f32x4.mul(v128.load32_splat(diagonal + (k << 2)), v128.load(x + (<usize>k << 4)))
    const rest = f32x4.add(f32x4.sub(v128.load(b + (<usize>k << 4)), own), around(k, nb, w, x))
    const to = coarse + (<usize>load<i32>(parent + (k << 2)) << 4)
    v128.store(to, f32x4.add(v128.load(to), rest))
  }
}

/** x += coarse[parent]. */
export function membraneProlong(n: i32, parent: usize, coarse: usize, x: usize): void {
  for (let k = 0; k < n; k++) {
    const to = x + (<usize>k << 4)
    v128.store(to, f32x4.add(v128.load(to), v128.load(coarse + (<usize>load<i32>(parent + (k << 2)) << 4))))
  }
}

/** y = y * scale + x * factor, channel by channel; `scale` and `factor` point at four floats. */
export function membraneBlend(n: i32, scale: usize, y: usize, factor: usize, x: usize): void {
  const s = v128.load(scale)
  const f = v128.load(factor)
  for (let k = 0; k < n; k++) {
    const to = y + (<usize>k << 4)
    v128.store(to, f32x4.add(f32x4.mul(s, v128.load(to)), f32x4.mul(f, v128.load(x + (<usize>k << 4)))))
  }
}

/** out = the four inner products of x and y, as 64-bit floats. */
export function membraneDot(n: i32, x: usize, y: usize, out: usize): void {
  let low = f64x2.splat(0)
  let high = f64x2.splat(0)
  for (let k = 0; k < n; k++) {
    const product = f32x4.mul(v128.load(x + (<usize>k << 4)), v128.load(y + (<usize>k << 4)))
    low = f64x2.add(low, f64x2.promote_low_f32x4(product))
    high = f64x2.add(high, f64x2.promote_low_f32x4(v128.shuffle<f32>(product, product, 2, 3, 0, 1)))
  }
  v128.store(out, low)
  v128.store(out, high, 16)
}

/** out = A x, and the four inner products of x and out, as 64-bit floats, into `products`. */
export function membraneApplyDot(n: i32, nb: usize, w: usize, diagonal: usize, x: usize, out: usize, products: usize): void {
  let low = f64x2.splat(0)
  let high = f64x2.splat(0)
  for (let k = 0; k < n; k++) {
    const value = v128.load(x + (<usize>k << 4))
    const result = f32x4.sub(f32x4.mul(v128.load32_splat(diagonal + (k << 2)), value), around(k, nb, w, x))
    v128.store(out + (<usize>k << 4), result)
    const product = f32x4.mul(value, result)
    low = f64x2.add(low, f64x2.promote_low_f32x4(product))
    high = f64x2.add(high, f64x2.promote_low_f32x4(v128.shuffle<f32>(product, product, 2, 3, 0, 1)))
  }
  v128.store(products, low)
  v128.store(products, high, 16)
}

/** x += factor d, r -= factor a, channel by channel; the four inner products of the new r with itself into `products`. */
export function membraneStep(n: i32, factor: usize, d: usize, a: usize, x: usize, r: usize, products: usize): void {
  const f = v128.load(factor)
  let low = f64x2.splat(0)
  let high = f64x2.splat(0)
  for (let k = 0; k < n; k++) {
    const at = <usize>k << 4
    v128.store(x + at, f32x4.add(v128.load(x + at), f32x4.mul(f, v128.load(d + at))))
    const rest = f32x4.sub(v128.load(r + at), f32x4.mul(f, v128.load(a + at)))
    v128.store(r + at, rest)
    const product = f32x4.mul(rest, rest)
    low = f64x2.add(low, f64x2.promote_low_f32x4(product))
    high = f64x2.add(high, f64x2.promote_low_f32x4(v128.shuffle<f32>(product, product, 2, 3, 0, 1)))
  }
  v128.store(products, low)
  v128.store(products, high, 16)
}
