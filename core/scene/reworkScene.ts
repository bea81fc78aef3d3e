import { changedCells, leftOutGrid, leftOutOn, mattersToScene } from './leftOut'
import { mergeScene } from './mergeScene'
import type { Scene } from './scene'
import type { RunContext } from '../shot/context'
import { analyseScene, type SceneRequest } from './analyseScene'
import type { Clip } from '../shot/clip'

/**
 * A scene again after mends have changed what must be left out: the last one as it is when that hardly differs, else worked out
 * anew and merged with the last, which stays wherever both agree.
 * @returns The very same scene when nothing is to be done; null when it was stopped.
 */
export async function reworkScene(
  request: SceneRequest,
  last: Scene,
  source: Clip,
  context: RunContext,
): Promise<Scene | null> {
  const { range, maskAt } = request
  const { width, height } = source.plate
  const frames: string[] = []
  for (let frame = range.firstFrame; frame <= range.lastFrame; frame++) {
    if (context.shouldStop()) return null
    frames.push(leftOutOn(await maskAt(frame), width, height))
  }
  const now = { ...leftOutGrid(width, height), frames }
  if (!mattersToScene(changedCells(last.leftOut, now))) return last
  const fresh = await analyseScene(request, source, context)
  return fresh && mergeScene(last, fresh)
}
