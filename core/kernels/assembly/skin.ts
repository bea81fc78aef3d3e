// Skin: the matte of a tone, bands at a part of the size, and the evened values of an area. Interleaved samples are 32-bit floats.
import { rectSums } from './windows'

/** Means of `by` x `by` px, of fewer at the right and lower edge. */
export function shrink(src: usize, width: i32, height: i32, channels: i32, by: i32, out: usize): void {
  let to = out
  const step = <usize>channels << 2
  for (let row = 0; row < height; row += by) {
    const rows = min(by, height - row)
    for (let col = 0; col < width; col += by, to += step) {
      const cols = min(by, width - col)
      const share: f32 = 1 / <f32>(rows * cols)
      for (let c: usize = 0; c < step; c += 4) {
        let sum: f32 = 0
        for (let down = 0; down < rows; down++) {
          let from = src + <usize>((row + down) * width + col) * step + c
          for (let right = 0; right < cols; right++, from += step) sum += load<f32>(from)
        }
        store<f32>(to + c, share * sum)
      }
    }
  }
}

/**
 * How far each pixel has the tones, before edges are followed: the first, so many that are `added`, and not what lies nearer to one of so many that are `taken` away. A tone holds: the shares of red, green and blue in brightness; the scales of blue
 * and red differences; the tone's brightness, colourfulness, its direction in blue and red; one over the widths of brightness where it is darker
 * and where it is brighter, of colour, of hue; the least colourfulness; where the matte begins to go, and over how much; the slopes of colourfulness and hue with
 * brightness; the brightness from which on they stay.
 */
export function toneShares(
  src: usize, channels: i32, size: i32, tones: usize, added: i32, taken: i32, guide: usize, out: usize,
): void {
  const step = <usize>channels << 2
  let from = src
  for (let i: usize = 0; i < <usize>size << 2; i += 4, from += step) {
    const red = load<f32>(from), blue = load<f32>(from, 8)
    const light = load<f32>(tones) * red + load<f32>(tones, 4) * load<f32>(from, 4) + load<f32>(tones, 8) * blue
    store<f32>(guide + i, light)
    store<f32>(out + i, shareOfAll(tones, added, taken, red, blue, light))
  }
}

/** Bytes of one tone. */
const TONE: usize = 76

// @ts-ignore: decorator
@inline
function shareOfAll(tones: usize, added: i32, taken: i32, red: f32, blue: f32, light: f32): f32 {
  let near = distanceTo(tones, red, blue, light), tone = tones
  for (let i = 0; i < added; i++) near = min(near, distanceTo((tone += TONE), red, blue, light))
  const full = load<f32>(tones, 56), ramp = load<f32>(tones, 60)
  let share = min<f32>(1, max<f32>(0, 1 - (near - full) / ramp))
  // What lies nearer to a tone that is taken away is that one's; between the two it is shared out.
  for (let i = 0; i < taken; i++) {
    const other = distanceTo((tone += TONE), red, blue, light)
    share = min(share, min<f32>(1, max<f32>(0, <f32>0.5 + (other - near) / ramp)))
  }
  return share
}

/** How far a colour lies from a tone, in its widths. */
// @ts-ignore: decorator
@inline
function distanceTo(tone: usize, red: f32, blue: f32, light: f32): f32 {
  const brightness = load<f32>(tone, 20), alongBlue = load<f32>(tone, 28), alongRed = load<f32>(tone, 32)
  const offBlue = (blue - light) / load<f32>(tone, 12), offRed = (red - light) / load<f32>(tone, 16)
  const along = min(light, load<f32>(tone, 72)) - brightness
  const off = light - brightness
  const a = off * (off > 0 ? load<f32>(tone, 40) : load<f32>(tone, 36))
  const expected = max(load<f32>(tone, 52), load<f32>(tone, 24) + load<f32>(tone, 64) * along)
  const b = (offBlue * alongBlue + offRed * alongRed - expected) * load<f32>(tone, 44)
  const c = (offRed * alongBlue - offBlue * alongRed - load<f32>(tone, 68) * along) * load<f32>(tone, 48)
  return sqrt(a * a + b * b + c * c)
}

/** Interleaved red, green, blue, each times the matte, and the matte. */
export function weighSkin(src: usize, channels: i32, matte: usize, size: i32, out: usize): void {
  const step = <usize>channels << 2
  let from = src, to = out
  for (let i: usize = 0; i < <usize>size << 2; i += 4, from += step, to += 16) {
    const share = load<f32>(matte + i)
    store<f32>(to, share * load<f32>(from))
    store<f32>(to, share * load<f32>(from, 4), 4)
    store<f32>(to, share * load<f32>(from, 8), 8)
    store<f32>(to, share, 12)
  }
}

/** In place: weighed values by their weight, the picture's own where it is less than `least`; then the matte. */
export function settleSkin(weighed: usize, src: usize, channels: i32, matte: usize, size: i32, least: f32): void {
  const step = <usize>channels << 2
  let from = src, to = weighed
  for (let i: usize = 0; i < <usize>size << 2; i += 4, from += step, to += 16) {
    const share = load<f32>(to, 12)
    if (share > least) v128.store(to, f32x4.div(v128.load(to), f32x4.splat(share)))
    else {
      store<f32>(to, load<f32>(from))
      store<f32>(to, load<f32>(from, 4), 4)
      store<f32>(to, load<f32>(from, 8), 8)
    }
    store<f32>(to, load<f32>(matte + i), 12)
  }
}

/**
 * Means of `by` x `by` px of `middle` (red, green, blue, matte) by their matte, as planes of whole vectors: red, green, blue, matte. Where nothing is
 * skin, plain means.
 */
export function shrinkSkin(middle: usize, width: i32, height: i32, by: i32, planes: usize, bytes: usize): void {
  let to = planes
  for (let row = 0; row < height; row += by) {
    const rows = min(by, height - row)
    for (let col = 0; col < width; col += by, to += 4) {
      const cols = min(by, width - col)
      let sums = f32x4.splat(0), plain = f32x4.splat(0)
      let matte: f32 = 0
      for (let down = 0; down < rows; down++) {
        let from = middle + (<usize>((row + down) * width + col) << 4)
        for (let right = 0; right < cols; right++, from += 16) {
          const one = v128.load(from), share = load<f32>(from, 12)
          sums = f32x4.add(sums, f32x4.mul(one, f32x4.splat(share)))
          plain = f32x4.add(plain, one)
          matte += share
        }
      }
      const all = <f32>(rows * cols)
      const mean = matte > 0.001 ? f32x4.div(sums, f32x4.splat(matte)) : f32x4.div(plain, f32x4.splat(all))
      store<f32>(to, f32x4.extract_lane(mean, 0))
      store<f32>(to + bytes, f32x4.extract_lane(mean, 1))
      store<f32>(to + 2 * bytes, f32x4.extract_lane(mean, 2))
      store<f32>(to + 3 * bytes, matte / all)
    }
  }
}

// Products whose sums over squares `formLines` needs, all by what is known: of places and guide, once; of each colour.
const N: usize = 0, X: usize = 1, Y: usize = 2, XX: usize = 3, XY: usize = 4, YY: usize = 5, G: usize = 6, GX: usize = 7, GY: usize = 8, GG: usize = 9
const M: usize = 10, MX: usize = 11, MY: usize = 12, MG: usize = 13
/** Then the slopes and rests of lines, where there are any, and their sums. */
const SLOPE: usize = 14, REST: usize = 15, TOLD: usize = 16, SLOPES: usize = 17, RESTS: usize = 18, TOLDS: usize = 19
// The 21st map is to work with: `FORM_MAPS` in skin/bands.ts.
const WORK: usize = 20


/**
 * For each place and colour the line over the guide that gives form: the guided filter (K. He, J. Sun and X. Tang, 2010) with a plane taken out of every
 * rectangle of 2 radius + 1 across and 2 radiusDown + 1 down first, so that light that falls off evenly is no edge. `colours` are three planes `bytes` long, `known` how far each place counts; where a square
 * knows less than `fewest` it has no line. `lines` gets slopes of the three colours, 0, rests, 0; a slope of 0 and the colour itself where there is no line around.
 */
export function formLines(
  guide: usize, colours: usize, known: usize, width: i32, height: i32, bytes: usize, radius: i32, radiusDown: i32, floor: f32, fewest: f32,
  scratch: usize, across: usize, columns: usize, lines: usize,
): void {
  const size = width * height
  const work = scratch + WORK * bytes
  for (let which: usize = N; which <= GG; which++) {
    for (let row = 0, i: usize = 0; row < height; row++) {
      const y = <f32>row - <f32>height / 2
      for (let col = 0; col < width; col++, i += 4) {
        const x = <f32>col - <f32>width / 2, g = load<f32>(guide + i)
        let value = load<f32>(known + i)
        if (which == X) value *= x
        else if (which == Y) value *= y
        else if (which == XX) value *= x * x
        else if (which == XY) value *= x * y
        else if (which == YY) value *= y * y
        else if (which == G) value *= g
        else if (which == GX) value *= g * x
        else if (which == GY) value *= g * y
        else if (which == GG) value *= g * g
        store<f32>(work + i, value)
      }
    }
    rectSums(work, width, height, radius, radiusDown, across, columns, scratch + which * bytes)
  }
  for (let colour: usize = 0; colour < 3; colour++) {
    const map = colours + colour * bytes
    for (let which: usize = M; which <= MG; which++) {
      for (let row = 0, i: usize = 0; row < height; row++) {
        for (let col = 0; col < width; col++, i += 4) {
          let value = load<f32>(known + i) * load<f32>(map + i)
          if (which == MX) value *= <f32>col - <f32>width / 2
          else if (which == MY) value *= <f32>row - <f32>height / 2
          else if (which == MG) value *= load<f32>(guide + i)
          store<f32>(work + i, value)
        }
      }
      rectSums(work, width, height, radius, radiusDown, across, columns, scratch + which * bytes)
    }
    for (let i: usize = 0; i < <usize>size << 2; i += 4) {
      const n = load<f32>(scratch + i)
      const isTold = n >= fewest
      const each: f32 = isTold ? 1 / n : <f32>0
      const x = each * load<f32>(scratch + X * bytes + i), y = each * load<f32>(scratch + Y * bytes + i)
      const g = each * load<f32>(scratch + G * bytes + i), m = each * load<f32>(scratch + M * bytes + i)
      const xx = each * load<f32>(scratch + XX * bytes + i) - x * x, yy = each * load<f32>(scratch + YY * bytes + i) - y * y
      const xy = each * load<f32>(scratch + XY * bytes + i) - x * y
      const gx = each * load<f32>(scratch + GX * bytes + i) - g * x, gy = each * load<f32>(scratch + GY * bytes + i) - g * y
      const mx = each * load<f32>(scratch + MX * bytes + i) - m * x, my = each * load<f32>(scratch + MY * bytes + i) - m * y
      // The guide's plane: how it rises to the right and down.
      const determinant = xx * yy - xy * xy
      const isPlane = determinant > 1e-3
      const right = isPlane ? (gx * yy - gy * xy) / determinant : <f32>0, down = isPlane ? (gy * xx - gx * xy) / determinant : <f32>0
      const variance = max<f32>(0, each * load<f32>(scratch + GG * bytes + i) - g * g - right * gx - down * gy)
      const covariance = each * load<f32>(scratch + MG * bytes + i) - m * g - right * mx - down * my
      const slope = covariance / (variance + floor)
      store<f32>(scratch + SLOPE * bytes + i, isTold ? slope : <f32>0)
      store<f32>(scratch + REST * bytes + i, isTold ? m - slope * g : <f32>0)
      store<f32>(scratch + TOLD * bytes + i, isTold ? <f32>1 : <f32>0)
    }
    for (let which: usize = 0; which < 3; which++)
      rectSums(scratch + (SLOPE + which) * bytes, width, height, radius, radiusDown, across, columns, scratch + (SLOPES + which) * bytes)
    let to = lines + (colour << 2)
    for (let i: usize = 0; i < <usize>size << 2; i += 4, to += 32) {
      const n = load<f32>(scratch + TOLDS * bytes + i)
      store<f32>(to, n > 0 ? load<f32>(scratch + SLOPES * bytes + i) / n : <f32>0)
      store<f32>(to, n > 0 ? load<f32>(scratch + RESTS * bytes + i) / n : load<f32>(map + i), 16)
    }
  }
}

/**
 * What the lines miss over more than blotches are wide is form too: the difference between the colours and what the lines give, averaged twice over rectangles of
 * 2 radius + 1 across and 2 radiusDown + 1 down by what is known, is added to the rests. `scratch` holds three maps.
 */
export function keepWideForm(
  guide: usize, colours: usize, known: usize, width: i32, height: i32, bytes: usize, radius: i32, radiusDown: i32, fewest: f32,
  scratch: usize, across: usize, columns: usize, lines: usize,
): void {
  const size = <usize>(width * height) << 2
  const counts = scratch + bytes, sums = scratch + 2 * bytes
  rectSums(known, width, height, radius, radiusDown, across, columns, counts)
  for (let colour: usize = 0; colour < 3; colour++) {
    const line = lines + (colour << 2), map = colours + colour * bytes
    for (let i: usize = 0; i < size; i += 4) {
      const form = load<f32>(line + (i << 3)) * load<f32>(guide + i) + load<f32>(line + (i << 3), 16)
      store<f32>(scratch + i, load<f32>(known + i) * (load<f32>(map + i) - form))
    }
    rectSums(scratch, width, height, radius, radiusDown, across, columns, sums)
    for (let i: usize = 0; i < size; i += 4) {
      const n = load<f32>(counts + i)
      store<f32>(scratch + i, n >= fewest ? load<f32>(known + i) * load<f32>(sums + i) / n : <f32>0)
    }
    rectSums(scratch, width, height, radius, radiusDown, across, columns, sums)
    for (let i: usize = 0; i < size; i += 4) {
      const n = load<f32>(counts + i), to = line + (i << 3) + 16
      if (n >= fewest) store<f32>(to, load<f32>(to) + load<f32>(sums + i) / n)
    }
  }
}

/** Four values between four pixels: across by `x`, down by `y`. */
// @ts-ignore: decorator
@inline
function between(a: usize, b: usize, c: usize, d: usize, x: v128, y: v128): v128 {
  const upper = v128.load(a), lower = v128.load(c)
  const above = f32x4.add(upper, f32x4.mul(x, f32x4.sub(v128.load(b), upper)))
  const below = f32x4.add(lower, f32x4.mul(x, f32x4.sub(v128.load(d), lower)))
  return f32x4.add(above, f32x4.mul(y, f32x4.sub(below, above)))
}

/** Where the middle of a pixel lies among the middles of pixels that are larger by `1 / perPx`, the outermost of them repeated. */
// @ts-ignore: decorator
@inline
function placeIn(at: i32, perPx: f32, count: i32): f32 {
  return min<f32>(<f32>(count - 1), max<f32>(0, (<f32>at + 0.5) * perPx - 0.5))
}

/**
 * What the middle (red, green, blue, matte) becomes, less the share of pores of the `first` one, from which it came by earlier passes: `out` holds colours to which a pixel's own value times the share of pores is
 * added, and the matte. `lines` (slopes of red, green, blue, 0; rests of them, 0) is smaller by `by`: with the brightness of the middle they give form.
 * `settings` holds: shares of red, green and blue in brightness, 0; trims of them, 0; the share of blotches left, of pores left, of shine taken, the
 * brightness from which light is shine. `lifts` says for each pixel by which share it becomes brighter, or is null. `curve` has `curveSteps` + 1 values from 0 to 1, or is null.
 */
export function evenMiddle(
  middle: usize, first: usize, width: i32, height: i32, lines: usize, linesWidth: i32, linesHeight: i32, by: i32,
  settings: usize, lifts: usize, curve: usize, curveSteps: i32, out: usize,
): void {
  const shares = v128.load(settings), trims = v128.load(settings, 16)
  const blotchShare = f32x4.splat(load<f32>(settings, 32)), poreShare = f32x4.splat(load<f32>(settings, 36))
  const shine = load<f32>(settings, 40), shineFrom = load<f32>(settings, 44)
  const perPx: f32 = 1 / <f32>by
  for (let row = 0, i: usize = 0; row < height; row++) {
    const y = placeIn(row, perPx, linesHeight), top = <i32>y
    const upper = lines + (<usize>(top * linesWidth) << 5)
    const lower = upper + (top + 1 < linesHeight ? <usize>linesWidth << 5 : 0)
    const down = f32x4.splat(y - <f32>top)
    for (let col = 0; col < width; col++, i += 16) {
      const here = v128.load(middle + i)
      const x = placeIn(col, perPx, linesWidth), from = <usize>(<i32>x) << 5
      const to = from + (<i32>x + 1 < linesWidth ? 32 : 0)
      const a = upper + from, b = upper + to, c = lower + from, d = lower + to
      const across = f32x4.splat(x - <f32>(<i32>x))
      const slopes = between(a, b, c, d, across, down), rests = between(a + 16, b + 16, c + 16, d + 16, across, down)
      const light = sumOf(f32x4.mul(here, shares))
      const form = f32x4.add(f32x4.mul(slopes, f32x4.splat(light)), rests)
      let even = f32x4.add(form, f32x4.mul(blotchShare, f32x4.sub(here, form)))
      if (shine > 0) {
        const over = sumOf(f32x4.mul(even, shares)) - shineFrom
        const least = min(f32x4.extract_lane(even, 0), min(f32x4.extract_lane(even, 1), f32x4.extract_lane(even, 2)))
        even = f32x4.sub(even, f32x4.splat(shine * max<f32>(0, min(over, least))))
      }
      if (lifts != 0) even = f32x4.mul(even, f32x4.splat(1 + load<f32>(lifts + (i >> 2))))
      even = f32x4.add(even, trims)
      if (curve != 0) even = along(curve, curveSteps, even)
      v128.store(out + i, f32x4.replace_lane(f32x4.sub(even, f32x4.mul(poreShare, v128.load(first + i))), 3, f32x4.extract_lane(here, 3)))
    }
  }
}

/**
 * Evens the listed pixels of a picture `width` wide: `values` holds their own values and gets the new ones, `needed` how far each is skin. `evened` (see `evenMiddle`) is
 * smaller by `by`. Where a pixel by itself is further from the tones, if there are any (see `toneShares`), it is less skin.
 */
export function evenSkin(
  values: usize, channels: i32, pixels: usize, count: i32, width: i32, evened: usize, evenedWidth: i32, evenedHeight: i32, by: i32,
  settings: usize, tones: usize, added: i32, taken: i32, needed: usize,
): void {
  const shares = v128.load(settings), poreShare = f32x4.splat(load<f32>(settings, 36))
  const step = <usize>channels << 2
  const perPx: f32 = 1 / <f32>by
  let begin = 0, end = 0
  let upper: usize = 0, lower: usize = 0
  let down = f32x4.splat(0)
  let at = values
  for (let i: usize = 0; i < <usize>count << 2; i += 4, at += step) {
    const pixel = load<i32>(pixels + i)
    if (pixel < begin || pixel >= end) {
      const row = pixel / width
      begin = row * width
      end = begin + width
      const y = placeIn(row, perPx, evenedHeight), top = <i32>y
      upper = evened + (<usize>(top * evenedWidth) << 4)
      lower = upper + (top + 1 < evenedHeight ? <usize>evenedWidth << 4 : 0)
      down = f32x4.splat(y - <f32>top)
    }
    const x = placeIn(pixel - begin, perPx, evenedWidth), left = <usize>(<i32>x) << 4
    const right = left + (<i32>x + 1 < evenedWidth ? 16 : 0)
    const here = between(upper + left, upper + right, lower + left, lower + right, f32x4.splat(x - <f32>(<i32>x)), down)
    const red = load<f32>(at), green = load<f32>(at, 4), blue = load<f32>(at, 8)
    const own = f32x4(red, green, blue, 0)
    let share = f32x4.extract_lane(here, 3)
    if (tones != 0 && share > 0) share *= shareOfAll(tones, added, taken, red, blue, sumOf(f32x4.mul(own, shares)))
    store<f32>(needed + i, share)
    const out = f32x4.add(here, f32x4.mul(poreShare, own))
    store<f32>(at, f32x4.extract_lane(out, 0))
    store<f32>(at, f32x4.extract_lane(out, 1), 4)
    store<f32>(at, f32x4.extract_lane(out, 2), 8)
  }
}

// @ts-ignore: decorator
@inline
function sumOf(colours: v128): f32 {
  return f32x4.extract_lane(colours, 0) + f32x4.extract_lane(colours, 1) + f32x4.extract_lane(colours, 2)
}

function along(curve: usize, steps: i32, colours: v128): v128 {
  return f32x4(
    onCurve(curve, steps, f32x4.extract_lane(colours, 0)),
    onCurve(curve, steps, f32x4.extract_lane(colours, 1)),
    onCurve(curve, steps, f32x4.extract_lane(colours, 2)),
    0,
  )
}

/** Straight between the curve's values; on beyond its last. */
function onCurve(curve: usize, steps: i32, value: f32): f32 {
  const at = max<f32>(0, value) * <f32>steps
  const left = min<i32>(<i32>at, steps - 1)
  const from = curve + (<usize>left << 2)
  return load<f32>(from) + (at - <f32>left) * (load<f32>(from, 4) - load<f32>(from))
}
