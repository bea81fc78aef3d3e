/** Faces through a shot: found on one frame, then located on each from where they lay on the last one. */
import { norm } from '../geometry/transform'
import { intersectRects, rectAround, wholePicture, type Rect } from '../image/rect'
import { rasterFromSamples } from '../image/samples'
import type { Raster } from '../image/raster'
import { smoothOverTime } from '../motion/cling/smoothOverTime'
import type { TrackedFrame } from '../motion/runTrack'
import type { Clip } from '../shot/clip'
import type { RunContext } from '../shot/context'
import type { Frame, FrameRange } from '../time'
import { detectFaces } from './detectFaces'
import type { FaceModel } from './faceModel'
import { keptPlaces } from './features'
import { locateFace, squareAround, type LocatedFace } from './locateFace'
import type { TurnedSquare } from './turnedSquare'

/** What is located on one frame trembles by half a px: it is drawn to the course of so many frames to either side. */
const SMOOTH_FRAMES = 3
/** A face that was lost is looked for in a square so many times as wide as the one it was lost in. Chosen. */
const LOST_WITHIN = 2

/** Found again, it lies within such a share of its square's side of where it was lost, twice so far after so many frames, and is at most so much larger or smaller. Two people's faces lie further apart. Chosen. */
const [SAME_WITHIN, LOST_FRAMES, SAME_SIZE] = [0.45, 12, 1.4]

/** A face on the frames on which it was found: `values` are the places that are kept of it. */
export type FoundFace = readonly TrackedFrame[]

/** Where and from which frame on faces are looked for. */
export interface FaceSearch {
  readonly frame: Frame
  /** A part of that frame, px of the full picture. */
  readonly rect: Rect
  readonly range: FrameRange
}

/**
 * @returns One for each face, the most likely first; none where there is none. Null when it was stopped.
 */
export async function followFaces(
  { frame, rect, range: { firstFrame, lastFrame } }: FaceSearch,
  clip: Clip,
  model: FaceModel,
  context: RunContext,
): Promise<FoundFace[] | null> {
  // The networks were trained on colours.
  if (clip.plate.channels < 3) return []
  const side = Math.max(rect.width, rect.height)
  const square = { x: rect.col + rect.width / 2, y: rect.row + rect.height / 2, sidePx: side, right: { x: 1, y: 0 } } // prettier-ignore
  const found = await detected(clip, frame, square, model)
  const total = found.length * (lastFrame - firstFrame + 1)
  let done = 0
  const faces: FoundFace[] = []
  for (const start of found) {
    const frames: TrackedFrame[] = [trackedFace(frame, start)]
    for (const step of [1, -1]) {
      let [last, lostFrames] = [squareAround(start.points), 0]
      for (let at = frame + step; at >= firstFrame && at <= lastFrame; at += step) {
        if (context.shouldStop()) return null
        const face =
          (await located(clip, at, last, model)) ?? (await lookAgain(clip, at, last, lostFrames, model))
        lostFrames = face ? 0 : lostFrames + 1
        if (face) {
          frames.push(trackedFace(at, face))
          last = squareAround(face.points)
        }
        context.onProgress?.(++done, total)
      }
    }
    frames.sort((a, b) => a.frame - b.frame)
    faces.push(smoothOverTime(frames, SMOOTH_FRAMES))
  }
  return faces
}

const trackedFace = (frame: Frame, { points, sure }: LocatedFace): TrackedFrame => ({
  frame,
  sure,
  values: keptPlaces(points),
})

/** All faces in a square. */
async function detected(
  clip: Clip,
  frame: Frame,
  square: TurnedSquare,
  model: FaceModel,
): Promise<LocatedFace[]> {
  const view = await readAround(clip, frame, square)
  if (!view) return []
  const found: LocatedFace[] = []
  for (const face of detectFaces(view.picture, view.seen(square), model)) {
    const whole = view.whole(face)
    const one = await located(clip, frame, whole, model)
    if (one) found.push(one)
  }
  return found
}

async function located(
  clip: Clip,
  frame: Frame,
  square: TurnedSquare,
  model: FaceModel,
): Promise<LocatedFace | null> {
  // The second look may be at a square that lies a little off the first.
  const view = await readAround(clip, frame, { ...square, sidePx: 1.25 * square.sidePx })
  const face = view && locateFace(view.picture, view.seen(square), model)
  if (!face) return null
  const points = face.points.map((value, i) => value + (i % 2 === 0 ? view.rect.col : view.rect.row))
  return { ...face, points }
}

/** The face that lies nearest to where one was lost, as large and not so far away as another person's would be; the longer it is lost the further it may have gone. */
async function lookAgain(
  clip: Clip,
  frame: Frame,
  last: TurnedSquare,
  lostFrames: number,
  model: FaceModel,
): Promise<LocatedFace | null> {
  const wide = { ...last, sidePx: LOST_WITHIN * last.sidePx, right: { x: 1, y: 0 } }
  const found = await detected(clip, frame, wide, model)
  const maxPx = SAME_WITHIN * last.sidePx * (1 + lostFrames / LOST_FRAMES)
  const near = found.flatMap((face) => {
    const { x, y, sidePx } = squareAround(face.points)
    const [awayPx, larger] = [norm(x - last.x, y - last.y), sidePx / last.sidePx]
    return awayPx <= maxPx && larger < SAME_SIZE && larger > 1 / SAME_SIZE ? [{ face, awayPx }] : []
  })
  return near.sort((a, b) => a.awayPx - b.awayPx)[0]?.face ?? null
}

interface View {
  readonly rect: Rect
  readonly picture: Raster
  /** A square of the whole picture as it lies in what was read, and back. */
  seen(square: TurnedSquare): TurnedSquare
  whole(square: TurnedSquare): TurnedSquare
}

/** What of a frame a square needs, however it is turned; null where it lies outside. */
async function readAround(clip: Clip, frame: Frame, { x, y, sidePx }: TurnedSquare): Promise<View | null> {
  // Half of a square's diagonal.
  const reachPx = 0.71 * sidePx
  const rect = intersectRects(
    rectAround(x - reachPx, y - reachPx, x + reachPx, y + reachPx),
    wholePicture(clip.plate),
  )
  if (!rect) return null
  return {
    rect,
    picture: rasterFromSamples(await clip.readRect(frame, rect)),
    seen: (square) => ({ ...square, x: square.x - rect.col, y: square.y - rect.row }),
    whole: (square) => ({ ...square, x: square.x + rect.col, y: square.y + rect.row }),
  }
}
