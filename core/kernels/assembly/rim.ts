// The rim of a gathered area: how far what is shown there is from the plate, and what that says of the places beside.

/**
 * Compares the plate with what is shown at the rim, and keeps for each place the least mean difference so far (`least`,
 * begun at infinity) and which of what is shown it belongs to (`best`). Differences are squares in variances, each up
 * to `most`; the mean is over the neighbours that `starts` and `around` list. Where `told` (0: none) names `index`, it
 * may differ by 1 / `favour` more. Planes of `plate` are `count` apart, of `values` `stride`. `offs` is scratch.
 */
export function compareRim(
  plate: usize, values: usize, stride: i32, kept: usize, count: i32, channels: i32, scales: usize, most: f32,
  starts: usize, around: usize, told: usize, index: i32, favour: f32, offs: usize, least: usize, best: usize,
): void {
  for (let k = 0; k < count; k++) {
    const at = <usize>k << 2
    const left = load<f32>(kept + at)
    let off: f32 = -1
    if (left > 0) {
      off = 0
      for (let ch = 0; ch < channels; ch++) {
        const there = load<f32>(values + (<usize>(ch * stride) << 2) + at)
        const here = load<f32>(plate + (<usize>(ch * count) << 2) + at)
        const difference = (here - there) * load<f32>(scales + (<usize>ch << 2))
        off += min<f32>(most, difference * difference / (1 + left))
      }
    }
    store<f32>(offs + at, off)
  }
  for (let k = 0; k < count; k++) {
    const at = <usize>k << 2
    if (load<f32>(offs + at) < 0) continue
    let sum: f32 = 0
    let known = 0
    const end = load<i32>(starts + at, 4)
    for (let from = load<i32>(starts + at); from < end; from++) {
      const off = load<f32>(offs + (<usize>load<i32>(around + (<usize>from << 2)) << 2))
      if (off < 0) continue
      sum += off
      known++
    }
    let mean = sum / <f32>(known * channels)
    // What it is said to be is not doubted because something else looks a little more alike.
    if (told != 0 && <i32>load<u8>(told + <usize>k) == index) mean *= favour
    if (mean < load<f32>(least + at)) {
      store<f32>(least + at, mean)
      store<u8>(best + <usize>k, <u8>index)
    }
  }
}

/** 2 where nothing is shown, 1 from `from` on, else 0; returns how many are 1. */
export function rimVerdicts(least: usize, count: i32, from: f32, out: usize): i32 {
  let n = 0
  for (let k = 0; k < count; k++) {
    const mean = load<f32>(least + (<usize>k << 2))
    const verdict = mean == Infinity ? 2 : mean > from ? 1 : 0
    if (verdict == 1) n++
    store<u8>(out + <usize>k, <u8>verdict)
  }
  return n
}

/** For each group of places 1 where more than `share` of its samples on the rim, by weight, differ. */
export function voteInconsistent(
  starts: usize, ends: usize, rim: usize, weights: usize, groups: i32, verdicts: usize, share: f32, out: usize,
): void {
  for (let group = 0; group < groups; group++) {
    let against: f32 = 0, all: f32 = 0
    const end = load<i32>(ends + (<usize>group << 2))
    for (let at = load<i32>(starts + (<usize>group << 2)); at < end; at++) {
      const verdict = load<u8>(verdicts + <usize>load<i32>(rim + (<usize>at << 2)))
      if (verdict == 2) continue
      const weight = load<f32>(weights + (<usize>at << 2))
      all += weight
      if (verdict == 1) against += weight
    }
    store<u8>(out + <usize>group, against > share * all ? 1 : 0)
  }
}
