/** Where the thing that an area was drawn round is on every frame of its mend: see `followThing.ts`. */
import type { KeyedArea } from '../document/areas'
import { expectedOutlines } from '../document/followedThing'
import type { Mend } from '../document/mend'
import { followThing, type FoundThing } from '../motion/thing/followThing'
import type { PictureSource } from '../motion/runTrack'
import { motionBetween, type Scene } from '../scene/scene'
import type { RunContext } from '../shot/context'
import type { FrameRange } from '../time'
import { layerOf } from './groundMotion'
import type { ShotDocument } from './shotDocument'

/** Without the scene's motion a thing cannot be told from the background. */
export async function findThing(
  { tracks, plate }: ShotDocument,
  scene: Scene,
  { span }: Pick<Mend, 'span'>,
  area: KeyedArea,
  source: PictureSource,
  context: RunContext,
): Promise<FoundThing> {
  const layer = layerOf(scene, area, tracks, area.keys[0]!.frame)
  const outlines = expectedOutlines(area, tracks, plate, within(span, plate))
  return followThing(
    { outlines, motionBetween: (from, to) => motionBetween(scene, layer, from, to) },
    source,
    context,
  )
}

const within = (span: FrameRange, plate: FrameRange): FrameRange => ({
  firstFrame: Math.max(span.firstFrame, plate.firstFrame),
  lastFrame: Math.min(span.lastFrame, plate.lastFrame),
})
