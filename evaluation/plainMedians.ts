/** What a clean plate is compared with: medians over time, given the same exact mattes. NaN where no frame shows a place. */
import type { OpenShot } from './film'
import { trackWithOpenCv, type OpenCv } from './opencv'

const REACH_FRAMES = 24
const STEP_FRAMES = 2

interface Candidate {
  readonly data: ArrayLike<number>
  /** Above 0: not to be taken. */
  readonly matte: ArrayLike<number>
}

function medianOf(shot: OpenShot, candidates: readonly Candidate[], matteHere: Uint8Array): Float32Array {
  const { width, height } = shot.description
  const out = new Float32Array(width * height * 3).fill(NaN)
  for (let pixel = 0; pixel < width * height; pixel++) {
    if (matteHere[pixel] === 0) continue
    const showing = candidates.filter(({ matte }) => matte[pixel] === 0)
    if (showing.length === 0) continue
    for (let at = 3 * pixel; at < 3 * pixel + 3; at++) {
      const sorted = showing.map(({ data }) => data[at]!).sort((a, b) => a - b)
      out[at] = (sorted[(sorted.length - 1) >> 1]! + sorted[sorted.length >> 1]!) / 2
    }
  }
  return out
}

const othersOf = ({ span }: OpenShot, frame: number): number[] => {
  const others: number[] = []
  for (let other = frame - REACH_FRAMES; other <= frame + REACH_FRAMES; other += STEP_FRAMES)
    if (other !== frame && other >= span.firstFrame && other <= span.lastFrame) others.push(other)
  return others
}

/** Frames as they lie. */
export async function temporalMedian(shot: OpenShot, frame: number): Promise<Float32Array> {
  const candidates = await Promise.all(
    othersOf(shot, frame).map(async (other) => ({
      data: (await shot.read('plate', other)).data,
      matte: await shot.readMatte(other),
    })),
  )
  return medianOf(shot, candidates, await shot.readMatte(frame))
}

const GRID_PX = 40

/** Frames brought over by one homography each, fitted by the library to points that it follows from frame to frame. */
export async function homographyMedian(cv: OpenCv, shot: OpenShot, frame: number): Promise<Float32Array> {
  const { width, height } = shot.description
  const matteHere = await shot.readMatte(frame)
  const places: [number, number][] = []
  for (let y = GRID_PX; y < height; y += GRID_PX)
    for (let x = GRID_PX; x < width; x += GRID_PX) if (matteHere[y * width + x] === 0) places.push([x, y])
  const candidates: Candidate[] = []
  for (const direction of [-1, 1]) {
    const frames: number[] = []
    for (
      let at = frame;
      Math.abs(at - frame) <= REACH_FRAMES && at >= shot.span.firstFrame && at <= shot.span.lastFrame;
      at += direction
    )
      frames.push(at)
    const pictures = await Promise.all(frames.map((at) => shot.read('plate', at)))
    const { positions } = trackWithOpenCv(cv, pictures, places)
    for (let i = STEP_FRAMES; i < frames.length; i += STEP_FRAMES) {
      const pairs = places.flatMap((from, k) =>
        positions[i]![k] ? [[from, positions[i]![k]!] as const] : [],
      )
      if (pairs.length < 8) continue
      candidates.push(warped(cv, shot, pictures[i]!.data, await shot.readMatte(frames[i]!), pairs))
    }
  }
  return medianOf(shot, candidates, matteHere)
}

type Place = readonly [number, number]

function warped(
  cv: OpenCv,
  { description: { width, height } }: OpenShot,
  data: ArrayLike<number>,
  matte: ArrayLike<number>,
  pairs: readonly (readonly [Place, Place])[],
): Candidate {
  // The library counts from the middle of the first pixel.
  const points = (which: 0 | 1) =>
    cv.matFromArray(
      pairs.length,
      1,
      cv.CV_32FC2,
      pairs.flatMap((pair) => [pair[which][0] - 0.5, pair[which][1] - 0.5]),
    )
  const [here, there] = [points(0), points(1)]
  const [picture, mask] = [
    cv.matFromArray(height, width, cv.CV_8UC3, data),
    cv.matFromArray(height, width, cv.CV_8UC1, matte),
  ]
  const [moved, movedMask] = [new cv.Mat(), new cv.Mat()]
  const homography = cv.findHomography(there, here, cv.RANSAC, 2)
  const size = new cv.Size(width, height)
  cv.warpPerspective(picture, moved, homography, size, cv.INTER_CUBIC)
  // Outside the other frame nothing is shown.
  cv.warpPerspective(
    mask,
    movedMask,
    homography,
    size,
    cv.INTER_LINEAR,
    cv.BORDER_CONSTANT,
    new cv.Scalar(255),
  )
  const out = {
    data: Uint8Array.from(moved.data as Uint8Array),
    matte: Uint8Array.from(movedMask.data as Uint8Array),
  }
  for (const mat of [here, there, picture, mask, moved, movedMask, homography]) mat.delete()
  return out
}
