/**
 * Mends on one frame: keys and tracks worked out, nothing left that depends on time. What the evaluator
 * takes, what is sent to workers, and what tells whether a mended frame is still good.
 */
import type { StillWanted } from '../fill/method'
import type { Matrix3 } from '../geometry/transform'
import type { LayerMap } from '../scene/layerMap'
import type { Scene } from '../scene/scene'
import type { Frame, FrameRange } from '../time'
import type { Area } from '../document/areas'
import { isStepKeys, settledAt } from '../stepKeys'
import { type Stack, groundMotion, layersNear } from './groundMotion'
import { type PlacedShape, isActiveAt, placeArea } from './placedArea'
import { type PlacedLook, gatheredFrames, paramsOf, usesSource, looksOf } from './frameRequests'
import { rampAt, type FillSettings, type Finish, type Mend } from '../document/mend'
import { sourceFromTarget } from '../document/sourceKeys'
import type { Tracks } from '../document/tracks'

export interface PlacedCover {
  readonly shape: PlacedShape
  /** Layers of the frame around it, for gathering. */
  readonly layerMap: LayerMap | null
  readonly sourceFromTarget: Matrix3 | null
  /** The fill's own picture. */
  readonly still: PlacedStill | null
  readonly looks: readonly PlacedLook[]
}

export interface PlacedStill extends Pick<StillWanted, 'of' | 'corners'> {
  /** How the ground moves to the frame on which it was placed; null where it rests. */
  readonly groundToIt: Matrix3 | null
}

export interface PlacedMend {
  /** Also the seed of its grain. */
  readonly id: string
  readonly fill: FillSettings
  readonly finish: Finish
  /** Strength and ramp together, above 0. */
  readonly share: number
  readonly covers: readonly PlacedCover[]
  readonly holdouts: readonly PlacedShape[]
}

/** What fills must keep away from on a frame: the areas of a mend that is on there. */
export interface OtherMend {
  readonly mendId: string
  readonly finish: Pick<Finish, 'featherOutPx' | 'featherInPx' | 'growPx'>
  readonly covers: readonly PlacedShape[]
  readonly holdouts: readonly PlacedShape[]
}

export interface FramePlan {
  readonly frame: Frame
  readonly mends: readonly PlacedMend[]
  /** Of every other frame that is looked at, what is on there. */
  readonly others: Readonly<Record<Frame, readonly OtherMend[]>>
}

/**
 * Everything that is needed to mend one frame.
 * @param plate  The frames there are: no other is looked at. @param scene  Null as long as it has not been worked out.
 */
export function planFrame(
  mends: readonly Mend[],
  tracks: Tracks,
  frame: Frame,
  plate: FrameRange,
  scene: Scene | null = null,
): FramePlan {
  const stack: Stack = { mends, tracks, plate, scene }
  const placed = mends.filter((mend) => isActiveAt(mend, frame)).map((mend) => placeMend(mend, stack, frame))
  const frames = new Set(
    placed.flatMap(({ covers }) => covers.flatMap(({ looks }) => looks.map((look) => look.frame))),
  )
  const others = Object.fromEntries([...frames].map((other) => [other, otherMendsOn(mends, tracks, other)]))
  return { frame, mends: placed, others }
}

export function otherMendsOn(mends: readonly Mend[], tracks: Tracks, frame: Frame): OtherMend[] {
  return (
    mends
      .filter((mend) => isActiveAt(mend, frame))
      // As drawn: frames that are gathered from may show a thing just outside its outline, and are outvoted there.
      .map(({ id, finish, areas }) => ({
        mendId: id,
        finish: { featherOutPx: finish.featherOutPx, featherInPx: finish.featherInPx, growPx: finish.growPx },
        covers: areas.filter((area) => area.role === 'cover').map((area) => placeArea(area, tracks, frame)),
        holdouts: areas
          .filter((area) => area.role === 'holdout')
          .map((area) => placeArea(area, tracks, frame)),
      }))
  )
}

function placeMend(mend: Mend, stack: Stack, frame: Frame): PlacedMend {
  const { id, fill, finish, areas, span, source } = mend
  const { tracks, plate, scene } = stack
  const gathered = gatheredFrames(mend, frame, plate)
  return {
    id,
    fill: settled(fill, frame),
    finish: widened(mend),
    share: finish.strength * rampAt(span, frame),
    covers: areas
      .filter((area) => area.role === 'cover')
      .map((area) => ({
        shape: placeArea(area, tracks, frame),
        layerMap: gathered?.motion === 'scene' && scene ? layersNear(scene, area, tracks, frame) : null,
        sourceFromTarget: source && usesSource(mend) ? sourceFromTarget(source, area, tracks, frame) : null,
        still: placeStill(mend, area, stack, frame),
        looks: looksOf(mend, area, stack, frame, within(span, plate)),
      })),
    holdouts: areas.filter((area) => area.role === 'holdout').map((area) => placeArea(area, tracks, frame)),
  }
}

/** A fill's own picture on a frame. One of a frame that the plate does not have is none. */
export function placeStill(mend: Mend, area: Area, stack: Stack, frame: Frame): PlacedStill | null {
  const fill = paramsOf(mend)
  const wanted = fill?.method.needsStill?.(fill.params)
  const { firstFrame, lastFrame } = stack.plate
  const isHad = (at: Frame) => at >= firstFrame && at <= lastFrame
  if (!wanted || (typeof wanted.of === 'number' && !isHad(wanted.of))) return null
  const { of, corners, on } = wanted
  return { of, corners, groundToIt: on !== null && isHad(on) ? groundMotion(area, stack, frame, on) : null }
}

/** What a setting says on other frames has no part in this one: changing it there leaves this frame as it is. */
const settled = (fill: FillSettings, frame: Frame): FillSettings => ({
  ...fill,
  params: Object.fromEntries(
    Object.entries(fill.params).map(([name, value]) => [
      name,
      isStepKeys(value) ? settledAt(value, frame) : value,
    ]),
  ),
})

/** Where a fill looks for the thing outside its area, the area is as large as that. */
function widened(mend: Mend): Finish {
  const fill = paramsOf(mend)
  const byPx = fill?.method.widensPx?.(fill.params) ?? 0
  return byPx > 0 ? { ...mend.finish, growPx: mend.finish.growPx + byPx } : mend.finish
}

const within = (span: FrameRange, plate: FrameRange): FrameRange => ({
  firstFrame: Math.max(span.firstFrame, plate.firstFrame),
  lastFrame: Math.min(span.lastFrame, plate.lastFrame),
})
