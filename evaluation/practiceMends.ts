/**
 * Mends of a practice sequence as an artist would make them: one rough drawing, and what its kind starts with. Frames count
 * from 0, as the pictures do. The practice set counts places from pixel centres, we from pixel corners.
 */
import type { Area, OutlinePoint } from '../core/document/areas'
import type { MendKind, Mend } from '../core/document/mend'
import { startingFill, startingFinish } from '../core/document/mend'
import { KINDS } from '../core/document/kinds'
import type { Samples } from '../core/image/samples'
import { roughDrawing, linesAt } from './practiceLines'
import { FIRST_FRAME, type PracticeSequence } from './practiceFootage'

/** An object is outlined so much too large, on every so many frames. */
const OUTLINE_PX = 10
const KEY_EVERY = 12
/** A mark's box is so much too large; a spot's ellipse so many times. */
const BOX_PX = 4
const SPOT_TIMES = 1.6
const OUTLINE_POINTS = 24

type Place = readonly [number, number]

/** null: the sequence is not mended by drawing. */
export async function roughMends(sequence: PracticeSequence): Promise<Mend[] | null> {
  const [what] = sequence.name.split('_')
  switch (what) {
    case 'wire':
    case 'rod':
      return lineMends(sequence, what === 'wire' ? 'wire' : 'rig')
    case 'object':
    case 'fill':
      return [mendOf(sequence, 'object', await outlinesOf(sequence))]
    case 'shadow':
      return [mendOf(sequence, 'shadow', await shadowAreas(sequence))]
    case 'patch':
      return [mendOf(sequence, 'patch', await patchAreas(sequence))]
    case 'mark':
      return [mendOf(sequence, 'mark', [await markBox(sequence)])]
    case 'skin':
      return [mendOf(sequence, 'blemish', spots(sequence))]
    default:
      return null
  }
}

const lastOf = ({ frameCount }: PracticeSequence): number => frameCount - 1
const middleOf = ({ frameCount }: PracticeSequence): number => frameCount >> 1

function mendOf(sequence: PracticeSequence, kind: MendKind, areas: readonly Area[], id: string = kind): Mend {
  const span = { firstFrame: 0, lastFrame: lastOf(sequence), rampInFrames: 0, rampOutFrames: 0 }
  const [fill, finish] = [startingFill(kind), startingFinish(kind)]
  return { id, kind, name: `${KINDS[kind].title} ${id}`, isOn: true, areas: [...areas], fill, source: null, finish, span } // prettier-ignore
}

const common = { role: 'cover', interpolation: 'smooth', follow: null } as const

function lineMends(sequence: PracticeSequence, kind: 'wire' | 'rig'): Mend[] {
  const frame = middleOf(sequence)
  return linesAt(sequence, FIRST_FRAME + frame).map((line, i) => {
    const points = roughDrawing(line, sequence.clip.plate)
    return mendOf(sequence, kind, [{ ...common, shape: 'path', id: 'a', keys: [{ frame, points }] }], `${kind}-${i + 1}`) // prettier-ignore
  })
}

async function outlinesOf(sequence: PracticeSequence): Promise<Area[]> {
  const keys: { frame: number; points: OutlinePoint[] }[] = []
  const shown: number[] = []
  for (let frame = 0; frame <= lastOf(sequence); frame++)
    if (hullOf(await sequence.read('matte', FIRST_FRAME + frame)).length >= 3) shown.push(frame)
  for (const frame of shown) {
    const isKey = frame === shown[0] || frame === shown.at(-1) || (frame - shown[0]!) % KEY_EVERY === 0
    if (!isKey) continue
    const hull = hullOf(await sequence.read('matte', FIRST_FRAME + frame))
    keys.push({ frame, points: roughOutline(hull) })
  }
  return [{ ...common, shape: 'outline', id: 'a', keys }]
}

/** The corners of a hull round all that a matte covers, in order; none where it covers nothing. */
export function hullOf({ width, height, channels, data }: Samples): Place[] {
  const places: Place[] = []
  for (let row = 0; row < height; row++) {
    let [first, last] = [-1, -1]
    for (let col = 0; col < width; col++) {
      if (data[(row * width + col) * channels] === 0) continue
      if (first < 0) first = col
      last = col
    }
    if (first >= 0) places.push([first, row], [last + 1, row], [first, row + 1], [last + 1, row + 1])
  }
  places.sort((a, b) => a[0] - b[0] || a[1] - b[1])
  const half = (all: readonly Place[]): Place[] => {
    const chain: Place[] = []
    for (const place of all) {
      while (chain.length >= 2 && turn(chain.at(-2)!, chain.at(-1)!, place) <= 0) chain.pop()
      chain.push(place)
    }
    return chain.slice(0, -1)
  }
  return [...half(places), ...half([...places].reverse())]
}

const turn = ([ax, ay]: Place, [bx, by]: Place, [cx, cy]: Place): number =>
  (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)

/** Drawn round a hull, too large: on every frame as many points, each in its direction from the middle. */
export function roughOutline(hull: readonly Place[]): OutlinePoint[] {
  const middle = [0, 1].map((axis) => {
    const all = hull.map((place) => place[axis]!)
    return (Math.min(...all) + Math.max(...all)) / 2
  }) as [number, number]
  return Array.from({ length: OUTLINE_POINTS }, (_, k) => {
    const angle = (2 * Math.PI * k) / OUTLINE_POINTS
    const [dx, dy] = [Math.cos(angle), Math.sin(angle)]
    const far = distanceTo(hull, middle, dx, dy) + OUTLINE_PX
    return { x: middle[0] + far * dx, y: middle[1] + far * dy, inX: 0, inY: 0, outX: 0, outY: 0 }
  })
}

/** How far a hull's edge lies from a place inside, in a direction of length 1. */
function distanceTo(hull: readonly Place[], [x, y]: Place, dx: number, dy: number): number {
  let far = 0
  hull.forEach(([ax, ay], i) => {
    const [bx, by] = hull[(i + 1) % hull.length]!
    const across = dx * (by - ay) - dy * (bx - ax)
    if (Math.abs(across) < 1e-12) return
    const share = ((x - ax) * dy - (y - ay) * dx) / ((bx - ax) * dy - (by - ay) * dx)
    const along = ((ax - x) * (by - ay) - (ay - y) * (bx - ax)) / across
    if (share >= -1e-9 && share <= 1 + 1e-9) far = Math.max(far, along)
  })
  return far
}

/** An outline on the frame on which least of the thing is hidden, to be carried by the background, and what passes in front. */
async function patchAreas(sequence: PracticeSequence): Promise<Area[]> {
  const mattes = await Promise.all(
    sequence.truth.map((_, frame) => sequence.read('matte', FIRST_FRAME + frame)),
  )
  const shown = mattes.map(({ data }) => Array.from(data).reduce((sum, value) => sum + value, 0))
  const frame = shown.indexOf(Math.max(...shown))
  const hull = hullOf(mattes[frame]!)
  return [
    { ...common, shape: 'outline', id: 'a', keys: [{ frame, points: roughOutline(hull) }] },
    { ...common, role: 'holdout', shape: 'matte', id: 'h', pattern: sequence.patternOf('holdout'), keys: [] },
  ]
}

/** A shadow that goes its own way is outlined as an object is; one that rests on the ground is traced once, to be carried by the ground. */
async function shadowAreas(sequence: PracticeSequence): Promise<Area[]> {
  if (!restsOnGround(sequence.name)) return outlinesOf(sequence)
  const frame = middleOf(sequence)
  const points = tracedOutline(await sequence.read('matte', FIRST_FRAME + frame))
  return [{ ...common, shape: 'outline', id: 'a', keys: [{ frame, points }] }]
}

export const restsOnGround = (name: string): boolean => name.startsWith('shadow_02')

/** A shadow is traced so much outside of where it ends, by straight lines that round its corners by as much. */
const TRACED_PX = 6
const STRAIGHT_PX = 5

/** The outline of what a matte covers, walked round with the covered pixels at the right hand. */
function tracedOutline({ width, height, channels, data }: Samples): OutlinePoint[] {
  const isCovered = (x: number, y: number): boolean => {
    for (let dy = -TRACED_PX; dy <= TRACED_PX; dy++) {
      for (let dx = -TRACED_PX; dx <= TRACED_PX; dx++) {
        const [col, row] = [x + dx, y + dy]
        const isNear = dx * dx + dy * dy <= TRACED_PX * TRACED_PX
        const isInside = isNear && col >= 0 && row >= 0 && col < width && row < height
        if (isInside && data[(row * width + col) * channels] !== 0) return true
      }
    }
    return false
  }
  let start = -1
  for (let at = 0; start < 0 && at < width * height; at++)
    if (isCovered(at % width, Math.floor(at / width))) start = at
  const first: Place = [start % width, Math.floor(start / width)]
  const corners: Place[] = []
  let [[x, y], [dx, dy]] = [first, [1, 0]] as [Place, Place]
  do {
    corners.push([x, y])
    // Left of the way ahead, and right of it: the corner lies between four pixels.
    const left = isCovered(x + (dx + dy - 1) / 2, y + (dy - dx - 1) / 2)
    const right = isCovered(x + (dx - dy - 1) / 2, y + (dy + dx - 1) / 2)
    if (left) [dx, dy] = [dy, -dx]
    else if (!right) [dx, dy] = [-dy, dx]
    ;[x, y] = [x + dx, y + dy]
  } while (x !== first[0] || y !== first[1])
  const half = corners.length >> 1
  const kept = [
    ...straightened(corners.slice(0, half + 1)).slice(0, -1),
    ...straightened([...corners.slice(half), first]).slice(0, -1),
  ]
  return kept.map(([px, py]) => ({ x: px, y: py, inX: 0, inY: 0, outX: 0, outY: 0 }))
}

/** Fewer corners: none that lies near the straight line between others. D. Douglas, T. Peucker, 1973. */
function straightened(line: readonly Place[]): Place[] {
  const [a, b] = [line[0]!, line.at(-1)!]
  const length = Math.hypot(b[0] - a[0], b[1] - a[1])
  let [farthest, far] = [0, STRAIGHT_PX]
  line.forEach((place, i) => {
    const off =
      length > 0 ? Math.abs(turn(a, b, place)) / length : Math.hypot(place[0] - a[0], place[1] - a[1])
    if (off > far) [farthest, far] = [i, off]
  })
  if (farthest === 0) return [a, b]
  return [...straightened(line.slice(0, farthest + 1)).slice(0, -1), ...straightened(line.slice(farthest))]
}

/** Placed where its travel begins or ends, straight between. */
async function markBox(sequence: PracticeSequence): Promise<Area> {
  const boxes = await Promise.all(
    sequence.truth.map(async (_, frame) => boundsOf(await sequence.read('matte', FIRST_FRAME + frame))),
  )
  const keys = boxes.flatMap((box, frame) => {
    const [before, after] = [boxes[frame - 1], boxes[frame + 1]]
    const bend = before && after && Math.hypot(after.x - 2 * box.x + before.x, after.y - 2 * box.y + before.y)
    // Bounds are whole pixels: a straight travel is straight within one.
    return bend !== undefined && bend <= 1.5 ? [] : [{ frame, ...box, turnDeg: 0, cornerPx: 0 }]
  })
  return { ...common, interpolation: 'linear', shape: 'box', id: 'a', keys }
}

function boundsOf(matte: Samples) {
  const hull = hullOf(matte)
  const [xs, ys] = [hull.map(([x]) => x), hull.map(([, y]) => y)]
  const [left, right, top, bottom] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)]
  const [widthPx, heightPx] = [right - left + 2 * BOX_PX, bottom - top + 2 * BOX_PX]
  return { x: (left + right) / 2, y: (top + bottom) / 2, widthPx, heightPx }
}

/** Ellipses that follow their spots. */
function spots({ truth }: PracticeSequence): Area[] {
  return (truth[0]!.blemishes ?? []).map((_, i) => ({
    ...common,
    shape: 'ellipse',
    id: `s${i + 1}`,
    keys: truth.map(({ blemishes }, frame) => {
      const { x, y, radius } = blemishes![i]!
      const radiusPx = SPOT_TIMES * radius
      return { frame, x: x + 0.5, y: y + 0.5, radiusXPx: radiusPx, radiusYPx: radiusPx, turnDeg: 0 }
    }),
  }))
}
