/** The picture of a mark that an area was drawn round, and where it lies on the frames of its mend. */
import type { KeyedArea } from '../document/areas'
import type { MarkTold } from '../document/markDoubts'
import { isPartOfMark, type TakenMark } from '../document/markTaken'
import type { Mend } from '../document/mend'
import { UNSURE_BELOW } from '../document/tracks'
import { estimateMark, withUntoldDense, type EstimatedMark, type MarkRequest } from '../mark/estimateMark'
import { followMark, type FollowedPlace } from '../mark/followMark'
import { markFades } from '../mark/markFades'
import { legsOf } from '../mark/legs'
import type { MarkPlace } from '../mark/markPlaces'
import type { Clip } from '../shot/clip'
import type { RunContext } from '../shot/context'
import { placeArea } from './placedArea'
import type { ShotDocument } from './shotDocument'

export interface FoundMark extends Omit<TakenMark, 'name' | 'shownBy'> {
  readonly picture: EstimatedMark
  /** The least of all frames, 0 to 1: how well the picture explains what the mark changes. */
  readonly minSure: number
}

export const markToldBy = ({ minSure, picture: { seenShare, byEdges } }: FoundMark): MarkTold => ({
  minSure,
  seenShare,
  byEdges,
})

/** From this opacity on a place is filled rather than undone. */
const DENSE_FROM = 0.9
/** Marks that are placed nearer than this rest, px. */
const RESTING_PX = 0.02
/** Share of the work of one estimate beside that of following. */
const STEPS = 3

/**
 * @param othersOn  What other mends cover on a frame, as a mask of the whole plate: they show no ground.
 * @returns null when it was stopped, or no frame shows the area.
 */
export async function findMark(
  { tracks, plate, scene }: ShotDocument,
  { span, areas }: Pick<Mend, 'span' | 'areas'>,
  area: KeyedArea,
  clip: Clip,
  context: RunContext,
  othersOn?: MarkRequest['othersOn'],
): Promise<FoundMark | null> {
  const frames = {
    firstFrame: Math.max(span.firstFrame, plate.firstFrame),
    lastFrame: Math.min(span.lastFrame, plate.lastFrame),
  }
  const on = Math.min(frames.lastFrame, Math.max(frames.firstFrame, area.keys[0]!.frame))
  // A mark goes straight between the places that a hand has set, whatever its area does.
  const straight: KeyedArea = { ...area, interpolation: 'linear' }
  const reference = placeArea(straight, tracks, on)
  if (reference.shape.shape !== 'closed') return null
  // Several areas are parts of one mark, which go together.
  const outlines = areas.filter(isPartOfMark).flatMap((one) => {
    const { shape } = placeArea(one, tracks, on)
    return shape.shape === 'closed' ? [shape.polygon] : []
  })
  let places: readonly MarkPlace[] = Array.from(
    { length: frames.lastFrame - frames.firstFrame + 1 },
    (_, i) => {
      const frame = frames.firstFrame + i
      const { middle } = placeArea(straight, tracks, frame)
      return { frame, dx: middle.x - reference.middle.x, dy: middle.y - reference.middle.y }
    },
  )
  const requestAt = (): MarkRequest => ({
    clip,
    scene,
    frames: plate,
    placeOn: (frame) => places[frame - frames.firstFrame] ?? null,
    outlines,
    places,
    ...(othersOn && { othersOn }),
  })
  const isTravelling = places.some(({ dx, dy }) => Math.abs(dx) > RESTING_PX || Math.abs(dy) > RESTING_PX)
  const steps = isTravelling ? STEPS : 1
  const step = (begun: number): RunContext => ({
    ...context,
    onProgress: (done, total) => context.onProgress?.(begun * total + done, steps * total),
  })
  let picture = await estimateMark(requestAt(), step(0))
  if (!picture) return null
  let minSure = 1
  if (isTravelling) {
    const followed: FollowedPlace[] | null = await followMark(requestAt(), picture, places, step(1))
    if (!followed) return null
    places = followed
    minSure = Math.min(...followed.map(({ sure }) => sure))
    picture = await estimateMark(requestAt(), step(2))
    if (!picture) return null
  }
  const fades = await markFades(requestAt(), picture, places, step(isTravelling ? STEPS - 1 : 0))
  if (!fades) return null
  const kept = withUntoldDense(picture)
  const here = places[on - frames.firstFrame]!
  return {
    picture: kept,
    on,
    col: picture.col + here.dx,
    row: picture.row + here.dy,
    legs: isTravelling ? legsOf(sureOnes(places)) : [],
    fades,
    denseShare: denseShareOf(kept.opacity),
    minSure,
  }
}

/** Places that the mark's own picture has told; all of them where it has told next to none. */
function sureOnes(places: readonly (MarkPlace & { readonly sure?: number })[]): readonly MarkPlace[] {
  const sure = places.filter((place) => (place.sure ?? 1) >= UNSURE_BELOW)
  return sure.length >= 2 ? sure : places
}

function denseShareOf(opacity: Float32Array): number {
  let [dense, covered] = [0, 0]
  for (const one of opacity) {
    if (one === 0) continue
    covered++
    if (one >= DENSE_FROM) dense++
  }
  return covered === 0 ? 0 : dense / covered
}
