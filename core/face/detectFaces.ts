/** Where faces are in a picture, roughly: a middle, a size, and how they are turned. */
import type { Raster } from '../image/raster'
import { norm } from '../geometry/transform'
import { exp } from '../kernels/exact'
import { BOX_NUMBERS, DETECTOR_CELLS, DETECTOR_PX, type FaceModel } from './faceModel'
import { placeIn, squareOf, type TurnedSquare } from './turnedSquare'

/** Less likely than this it is no face. */
const LIKELY = 0.5
/** Two boxes that share more of what they cover together are one face. Common practice. */
const OVERLAP = 0.3
/** A face and so much around it is what its places are located in: as the network was trained. */
export const AROUND_FACE = 1.5

interface Candidate {
  readonly score: number
  readonly left: number
  readonly top: number
  readonly width: number
  readonly height: number
  /** Right and left eye of the person. */
  readonly eyes: readonly [number, number, number, number]
}

/**
 * @param square  The part of the picture that is looked at, upright. A face of less than about a tenth of it is not found.
 * @returns Squares around faces, turned as they are, the most likely one first.
 * Source: V. Bazarevsky et al., "BlazeFace: sub-millisecond neural face detection on mobile GPUs", arXiv:1907.05047, 2019.
 */
export function detectFaces(picture: Raster, square: TurnedSquare, model: FaceModel): TurnedSquare[] {
  const { scores, boxes } = model.detect(squareOf(picture, square, DETECTOR_PX, [-1, 1]))
  const faces: Candidate[] = []
  const likely = candidatesOf(scores, boxes).sort((a, b) => b.score - a.score)
  for (const one of likely) if (faces.every((other) => overlapOf(one, other) < OVERLAP)) faces.push(one)
  return faces.map((face) => {
    const at = (x: number, y: number) => placeIn(square, x / DETECTOR_PX, y / DETECTOR_PX)
    const middle = at(face.left + face.width / 2, face.top + face.height / 2)
    const [a, b] = [at(face.eyes[0], face.eyes[1]), at(face.eyes[2], face.eyes[3])]
    const side = (Math.max(face.width, face.height) / DETECTOR_PX) * square.sidePx
    return { ...middle, sidePx: AROUND_FACE * side, right: directionOf(b.x - a.x, b.y - a.y) }
  })
}

/** A direction of length 1; to the right where there is none. */
export function directionOf(x: number, y: number): { x: number; y: number } {
  const length = norm(x, y)
  return length > 0 ? { x: x / length, y: y / length } : { x: 1, y: 0 }
}

const likelihood = (score: number): number => 1 / (1 + exp(-score))

function candidatesOf(scores: Float32Array, boxes: Float32Array): Candidate[] {
  const found: Candidate[] = []
  let at = 0
  for (const { stridePx, each } of DETECTOR_CELLS) {
    const cells = DETECTOR_PX / stridePx
    for (let cell = 0; cell < cells * cells; cell++) {
      const x = stridePx * ((cell % cells) + 0.5)
      const y = stridePx * (Math.floor(cell / cells) + 0.5)
      for (let i = 0; i < each; i++, at++) {
        const score = likelihood(scores[at]!)
        if (score <= LIKELY) continue
        const box = boxes.subarray(BOX_NUMBERS * at, BOX_NUMBERS * (at + 1))
        const [width, height] = [box[2]!, box[3]!]
        const [left, top] = [x + box[0]! - width / 2, y + box[1]! - height / 2]
        found.push({ score, left, top, width, height, eyes: [x + box[4]!, y + box[5]!, x + box[6]!, y + box[7]!] }) // prettier-ignore
      }
    }
  }
  return found
}

function overlapOf(a: Candidate, b: Candidate): number {
  const width = Math.min(a.left + a.width, b.left + b.width) - Math.max(a.left, b.left)
  const height = Math.min(a.top + a.height, b.top + b.height) - Math.max(a.top, b.top)
  if (width <= 0 || height <= 0) return 0
  const shared = width * height
  return shared / (a.width * a.height + b.width * b.height - shared)
}
