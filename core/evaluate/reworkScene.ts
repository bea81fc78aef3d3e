import { changedCells, leftOutGrid, leftOutOn, mattersToScene } from '../scene/leftOut'
import { mergeScene } from '../scene/mergeScene'
import type { Scene } from '../scene/scene'
import { analyseScene, type SceneContext, type SceneRequest } from './analyseScene'
import type { FrameSource } from '../shot/clip'
import { ShapeReader } from './placement'
import { maskOn } from './maskOnFrame'

/**
 * A scene again after mends have changed what must be left out: the last one as it is when that hardly differs, else worked out
 * anew and merged with the last, which stays wherever both agree.
 * @returns The very same scene when nothing is to be done; null when it was stopped.
 */
export async function reworkScene(
  request: SceneRequest,
  last: Scene,
  source: FrameSource,
  context: SceneContext,
): Promise<Scene | null> {
  const { range, otherMends } = request
  const { width, height } = source.plate
  const reader = new ShapeReader(source)
  const frames: string[] = []
  for (let frame = range.firstFrame; frame <= range.lastFrame; frame++) {
    if (context.shouldStop()) return null
    frames.push(leftOutOn(await maskOn(otherMends[frame] ?? [], frame, reader, source), width, height))
  }
  const now = { ...leftOutGrid(width, height), frames }
  if (!mattersToScene(changedCells(last.leftOut, now))) return last
  const fresh = await analyseScene(request, source, context)
  return fresh && mergeScene(last, fresh)
}
