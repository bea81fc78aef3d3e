/**
 * What a frame shows that other frames do not show at the same place of the scene: what goes its own way, and has been there only now. What one of
 * them shows of it elsewhere, the others do not confirm.
 */
import { apply, type Matrix3 } from '../../geometry/transform'
import { medianOf } from '../../image/median'
import { createPlane, type Plane } from '../../image/raster'
import type { Rect } from '../../image/rect'
import { warpProjective } from '../../image/sample'
import { slidingLeast } from '../../image/windows'

const { abs, min, max } = Math // looked up once: they run for every cell

export interface OtherView {
  readonly plane: Plane
  /** Each a similarity, and takes a place of this frame to where a layer of the scene lies on the other, cells; the largest layer first. */
  readonly layers: readonly Matrix3[]
}

export interface Strange {
  /** By how many stops a cell is brighter than the scene; 0 where it is not strange. */
  readonly off: Plane
  /** `energyOf` it. */
  readonly energy: Float64Array
}

export interface Strangers extends Strange {
  /** The scene as the others show it, stops; null where it is no longer kept. */
  readonly ground: Plane | null
}

/** A stranger counts no more than this, stops: how much it differs depends on what is behind it. */
const MOST_STOPS = 0.25
/** What lies so near in the other frame explains a cell: no layer is known exactly. */
const NEAR_CELLS = 1
/** And so much beyond, as a share of the range that is there: what is fine comes out more or less sharp. */
const ROOM = 0.25

/** @param others  At least two. */
export function strangersOf(here: Plane, others: readonly OtherView[]): Strangers {
  const differences = others.map((other) => differenceTo(here, other))
  const { width, height } = here
  const [off, ground] = [createPlane(width, height), createPlane(width, height)]
  off.data.fill(Infinity)
  const bounds: Bounds = {
    least: off.data,
    second: new Float32Array(width * height).fill(Infinity),
    most: new Float32Array(width * height).fill(-Infinity),
    last: new Float32Array(width * height).fill(-Infinity),
  }
  const known = new Uint8Array(width * height)
  for (const difference of differences) takeIn(bounds, known, ground.data, difference)
  const { least, second, most, last } = bounds
  for (let i = 0; i < known.length; i++) {
    // One of them may show by chance what is here: of three and more, all but one have to differ.
    const mayMiss = known[i]! > 2
    const bright = mayMiss ? second[i]! : least[i]!
    const dark = mayMiss ? last[i]! : most[i]!
    ground.data[i] = known[i]! > 0 ? ground.data[i]! / known[i]! : here.data[i]!
    if (known[i]! < 2) off.data[i] = 0
    else off.data[i] = bright > 0 ? min(bright, MOST_STOPS) : dark < 0 ? max(dark, -MOST_STOPS) : 0
  }
  return { off, energy: energyOf(off), ground }
}

/** Of several differences at each cell the least, the second least, the most, and the second most. */
interface Bounds {
  readonly least: Float32Array
  readonly second: Float32Array
  readonly most: Float32Array
  readonly last: Float32Array
}

function takeIn(
  { least, second, most, last }: Bounds,
  known: Uint8Array,
  ground: Float32Array,
  { off, seen }: Difference,
): void {
  for (let i = 0; i < off.length; i++) {
    const value = off[i]!
    if (value !== value) continue // not to be seen there
    known[i]!++
    ground[i]! += seen[i]!
    if (value < second[i]!) {
      const before = least[i]!
      second[i] = value < before ? before : value
      if (value < before) least[i] = value
    }
    if (value > last[i]!) {
      const before = most[i]!
      last[i] = value > before ? before : value
      if (value > before) most[i] = value
    }
  }
}

interface Difference {
  /** By how much a cell differs from what the other frame shows there in any of its layers: the least; NaN where it is not to be seen. */
  readonly off: Float32Array
  /** That layer of the other frame. */
  readonly seen: Float32Array
}

function differenceTo(here: Plane, { plane, layers }: OtherView): Difference {
  const [first, ...rest] = layers.map((layer) => differenceIn(here, plane, layer))
  const { off, seen } = first!
  for (const other of rest) {
    for (let i = 0; i < off.length; i++) {
      const isNearer = off[i] !== off[i] || abs(other.off[i]!) < abs(off[i]!)
      if (!isNearer) continue
      off[i] = other.off[i]!
      seen[i] = other.seen[i]!
    }
  }
  return { off, seen }
}

function differenceIn(here: Plane, plane: Plane, toOther: Matrix3): Difference {
  const { width, height } = here
  const { data: seen } = warpProjective({ ...plane, channels: 1 }, toOther, here, 'bilinear')
  const light = lightBetween(here.data, seen)
  for (let i = 0; i < seen.length; i++) seen[i]! += light
  const least = slidingLeast(seen, width, height, NEAR_CELLS)
  const negated = seen.map((value) => -value)
  const greatest = slidingLeast(negated, width, height, NEAR_CELLS)
  const off = new Float32Array(seen.length)
  const origin = apply(toOther, 0.5, 0.5)
  const alongX = toOther[0]
  const alongY = toOther[3]
  for (let row = 0, at = 0; row < height; row++) {
    let x = origin.x + row * toOther[1]
    let y = origin.y + row * toOther[4]
    for (let col = 0; col < width; col++, at++, x += alongX, y += alongY) {
      if (x < 0 || y < 0 || x > plane.width || y > plane.height) {
        off[at] = NaN
        continue
      }
      const value = here.data[at]!
      const lowest = least[at]!
      const highest = -greatest[at]!
      const room = ROOM * (highest - lowest)
      if (value > highest + room) off[at] = value - highest - room
      else if (value < lowest - room) off[at] = value - lowest + room
    }
  }
  return { off, seen }
}

/** Every so many cells tell by how much the light has changed. */
const EVERY = 37

function lightBetween(here: Float32Array, there: Float32Array): number {
  const differences: number[] = []
  for (let i = 0; i < here.length; i += EVERY) differences.push(here[i]! - there[i]!)
  return medianOf(differences)
}

/** Sums of squares of all cells above and to the left: (width + 1) x (height + 1). Source: F. C. Crow, "Summed-area tables", SIGGRAPH 1984. */
export function energyOf({ width, height, data }: Plane): Float64Array {
  const sums = new Float64Array((width + 1) * (height + 1))
  for (let row = 0, at = 0; row < height; row++) {
    let sum = 0
    for (let col = 0; col < width; col++, at++) {
      sum += data[at]! * data[at]!
      const to = (row + 1) * (width + 1) + col + 1
      sums[to] = sums[to - width - 1]! + sum
    }
  }
  return sums
}

/** The energy of a rectangle, as far as it lies within the picture. */
export function energyIn(
  sums: Float64Array,
  { width, height }: Plane,
  col: number,
  row: number,
  part: Rect,
): number {
  const clampX = (x: number) => (x < 0 ? 0 : x > width ? width : x)
  const clampY = (y: number) => (y < 0 ? 0 : y > height ? height : y)
  const [left, right] = [clampX(col + part.col), clampX(col + part.col + part.width)]
  const [top, bottom] = [
    clampY(row + part.row) * (width + 1),
    clampY(row + part.row + part.height) * (width + 1),
  ]
  return sums[bottom + right]! - sums[bottom + left]! - sums[top + right]! + sums[top + left]!
}
