/** The `scene` command: how the background of a plate moves, worked out without a browser. */
import { tracksById } from '../core/document/tracks'
import { masksOf } from '../core/evaluate/masks'
import { analyseScene } from '../core/scene/analyseScene'
import { isLocked } from '../core/scene/scene'
import type { Clip } from '../core/shot/clip'
import { mattesBeside } from './picturesBeside'
import { readDocument, onFootage, stopped, writeWhole } from './plate'

export interface SceneOptions {
  readonly plate: string
  readonly mends?: string
  readonly out: string
  readonly firstFrame: string
  readonly rate: string
}

export interface SceneSummary {
  readonly frames: number
  readonly layers: number
  readonly isLocked: boolean
  /** The least of all frames. */
  readonly leastSure: number
  readonly out: string
}

export async function sceneOfFootage(
  options: SceneOptions,
  say: (text: string) => void,
  signal: AbortSignal,
): Promise<SceneSummary> {
  const document = options.mends ? await readDocument(options.mends) : null
  const known = document?.plate ?? { firstFrame: Number(options.firstFrame), frameRate: { num: 24, den: 1 } }
  return onFootage(options, known, say, signal, async ({ source, shape, firstFrame, lastFrame }) => {
    const clip: Clip = {
      plate: shape,
      readRect: source.readRect,
      readMatte: mattesBeside(options.mends ?? '', signal),
      readStill: async () => null,
      readMark: async () => null,
    }
    const shot = {
      mends: document?.mends ?? [],
      tracks: tracksById(document?.tracks ?? []),
      plate: { firstFrame, lastFrame, width: shape.width, height: shape.height },
      scene: null,
    }
    const scene = await analyseScene({ range: shot.plate, maskAt: masksOf(shot, clip) }, clip, {
      shouldStop: () => signal.aborted,
      onProgress: (done, total) => say(`\r${done} of ${total} steps  `),
    })
    if (!scene) throw stopped()
    say('\n')
    await writeWhole(options.out, `${JSON.stringify(scene)}\n`)
    return {
      frames: scene.plate.frameCount,
      layers: scene.layers.length,
      isLocked: isLocked(scene),
      leastSure: Math.min(...scene.layers[0]!.sure),
      out: options.out,
    }
  })
}
