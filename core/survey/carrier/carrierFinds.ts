/** What the carrier has done, as finds. */
import { medianOf } from '../../image/median'
import type { Size } from '../../image/rect'
import type { FrameRange } from '../../time'
import { MAX_SPECKS, type Find } from '../finds'
import type { CarrierPart } from './carrier'
import { damageOf, type BadLine, type Scratch, type TapeLine } from './damage'
import type { Speck } from './speck'

export function carrierFinds(part: CarrierPart, size: Size, range: FrameRange): Find[] {
  const { bad, scratches, tape } = damageOf(part, size, range)
  const apart = part.specks.filter((speck) => !scratches.some((scratch) => liesOn(scratch, speck)))
  const specks = specksFind(
    [...apart, ...tape.map((line) => asSpeck(line, size))],
    range.lastFrame - range.firstFrame + 1,
  )
  return [
    ...(specks ? [specks] : []),
    ...bad.map((line) => badFind(line, size, range)),
    ...scratches.map((scratch) => scratchFind(scratch, size)),
  ]
}

const ON_SCRATCH_PX = 6

/** What stands out on a scratch is the scratch's. */
const liesOn = ({ keys }: Scratch, { frame, x }: Speck): boolean =>
  keys.some((key) => Math.abs(key.frame - frame) <= 1 && Math.abs(key.x - x) < ON_SCRATCH_PX)

/** A line of a tape is a speck as long as the picture is wide. */
const asSpeck = ({ frame, y, widthPx, sure }: TapeLine, { width }: Size): Speck => ({
  frame,
  x: width / 2,
  y,
  lengthPx: width,
  widthPx,
  turnDeg: 0,
  sure,
})

function specksFind(all: readonly Speck[], frameCount: number): Find | null {
  if (all.length === 0) return null
  // Of more than a file lists, the surest.
  const kept = [...all]
    .sort((a, b) => b.sure - a.sure)
    .slice(0, MAX_SPECKS)
    .sort((a, b) => a.frame - b.frame)
  const [first, last] = [kept[0]!, kept.at(-1)!]
  const frames = new Set(kept.map(({ frame }) => frame)).size
  return {
    kind: 'specks',
    id: `specks-${first.frame}`,
    x: first.x,
    y: first.y,
    firstFrame: first.frame,
    lastFrame: last.frame,
    // Where there are few, most of them may be none.
    sure: medianOf(kept.map(({ sure }) => sure)) * Math.min(1, kept.length / frameCount),
    why: `${kept.length} ${kept.length === 1 ? 'speck' : 'specks'} on ${frames} ${frames === 1 ? 'frame' : 'frames'}: each stands out on its frame and is on neither the one before nor the one after, along the motion. Accepted, each is healed from its neighbours in time; single ones can be deleted from the list of the mend.`,
    specks: kept.map(({ frame, x, y, lengthPx, widthPx, turnDeg }) => ({
      frame,
      x,
      y,
      lengthPx,
      widthPx,
      turnDeg,
    })),
  }
}

function badFind(
  { axis, at, widthPx, offset, sure }: BadLine,
  { width, height }: Size,
  range: FrameRange,
): Find {
  const isColumn = axis === 'x'
  const [x, y] = isColumn ? [at, height / 2] : [width / 2, at]
  return {
    kind: 'pixel',
    class: isColumn ? 'column' : 'row',
    id: `${isColumn ? 'column' : 'row'}-${Math.floor(at)}`,
    x,
    y,
    firstFrame: range.firstFrame,
    lastFrame: range.lastFrame,
    widthPx: isColumn ? widthPx : width,
    heightPx: isColumn ? height : widthPx,
    sure,
    why: `A whole ${isColumn ? 'column' : 'row'} is ${offset > 0 ? 'lighter' : 'darker'} than those beside it on all frames, at the same place to a fraction of a pixel.`,
  }
}

function scratchFind({ keys, offset, sure }: Scratch, { height }: Size): Find {
  const [first, last] = [keys[0]!, keys.at(-1)!]
  return {
    kind: 'line',
    class: 'scratch',
    id: `scratch-${Math.floor(first.x)}-${first.frame}`,
    x: first.x,
    y: height / 2,
    firstFrame: first.frame,
    lastFrame: last.frame,
    sure,
    why: `An upright ${offset > 0 ? 'light' : 'dark'} line from top to bottom that stands in the frame, or sways, while the picture goes its own way.`,
    keys: keys.map(({ frame, x, widthPx }) => ({
      frame,
      points: [
        { x, y: 0, widthPx },
        { x, y: height, widthPx },
      ],
    })),
  }
}
