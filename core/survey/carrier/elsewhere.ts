/** Whether other frames show what seems a speck: a thing that moves, or a feature of the scene that this frame has caught better. */
import type { Place } from '../../geometry/transform'
import type { Blotch } from './blotches'
import type { Light } from './light'
import type { Candidate, SpeckFrame } from './speck'

/** How far a thing of its own is looked for, px; and what share of its contrast may differ there. */
const GOES_PX = 20
/** Of a small one, so many times its side: further off something like it is found by chance. */
const GOES_TIMES = 3
const SAME_SHARE = 0.3
/** So many of its pixels tell, and as many around it. */
const MAX_LOOKED_AT = 64

/** Whether another frame shows the same blotch nearby: then it is a thing that moves, not dirt. */
export function isElsewhere({ width, height, data }: Light, other: Light, { pixels }: Blotch): boolean {
  const looked = lookedAt(pixels, width, data.length)
  let [inside, outside] = [0, 0]
  for (const at of looked.own) inside += data[at]!
  for (const at of looked.beside) outside += data[at]!
  const contrast = Math.abs(inside / looked.own.length - outside / looked.beside.length)
  const reach = Math.min(GOES_PX, Math.round(GOES_TIMES * Math.sqrt(pixels.length)))
  const differs = (places: readonly number[], dx: number, dy: number): boolean => {
    const most = SAME_SHARE * contrast * places.length
    let sum = 0
    for (let k = 0; k < places.length && sum < most; k++) {
      const at = places[k]!
      const [col, row] = [(at % width) + dx, ((at / width) | 0) + dy]
      const isInside = col >= 0 && row >= 0 && col < width && row < height
      sum += isInside ? Math.abs(data[at]! - other.data[row * width + col]!) : contrast
    }
    return sum >= most
  }
  for (let dy = -reach; dy <= reach; dy++)
    for (let dx = -reach; dx <= reach; dx++)
      if (!differs(looked.own, dx, dy) && !differs(looked.beside, dx, dy)) return true
  return false
}

/** Some of a blotch's pixels, and of those around it. */
function lookedAt(
  pixels: readonly number[],
  width: number,
  count: number,
): { readonly own: readonly number[]; readonly beside: readonly number[] } {
  const own = new Set(pixels)
  const around = new Set<number>()
  for (const at of pixels)
    for (const away of [-2, 2, -2 * width, 2 * width, -width - 1, width + 1, -width + 1, width - 1])
      if (!own.has(at + away)) around.add(at + away)
  const some = (all: readonly number[]) => {
    const every = Math.ceil(all.length / MAX_LOOKED_AT)
    return all.filter((_, i) => i % every === 0)
  }
  return { own: some(pixels), beside: some([...around].filter((at) => at >= 0 && at < count)) }
}

/** So many px around where it is expected, and such a share of its contrast. */
const FEATURE_PX = 1
const FEATURE_SHARE = 0.45

/**
 * Whether another frame shows something of the same sign where the candidate's ground lies there: then it is of the scene, and this frame
 * has only caught it better.
 * @param goes  By how much the whole picture goes to that frame, px.
 */
export function isOfScene(
  { speck, pixels, drift }: Candidate,
  here: SpeckFrame,
  other: SpeckFrame,
  goes: Place,
): boolean {
  const { width, height, data } = here.full
  const frames = other.frame - here.frame
  const { own, beside } = lookedAt(pixels, width, data.length)
  const contrastAt = (light: Light, dx: number, dy: number): number => {
    let [inside, outside] = [0, 0]
    for (const at of own) inside += light.data[at + dy * width + dx]!
    for (const at of beside) outside += light.data[at + dy * width + dx]!
    return inside / own.length - outside / beside.length
  }
  const contrast = contrastAt(here.full, 0, 0)
  const [toX, toY] = [Math.round(goes.x + frames * drift.x), Math.round(goes.y + frames * drift.y)]
  const half = (speck.lengthPx + speck.widthPx) / 2 + FEATURE_PX + 3
  const [x, y] = [speck.x + toX, speck.y + toY]
  if (x < half || y < half || x > width - half || y > height - half) return false
  for (let dy = -FEATURE_PX; dy <= FEATURE_PX; dy++)
    for (let dx = -FEATURE_PX; dx <= FEATURE_PX; dx++) {
      const there = contrastAt(other.full, toX + dx, toY + dy)
      if (there * contrast > 0 && Math.abs(there) > FEATURE_SHARE * Math.abs(contrast)) return true
    }
  return false
}
