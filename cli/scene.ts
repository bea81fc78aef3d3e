/** The `scene` command: how the background of a plate moves, worked out without a browser. */
import { readFile } from 'node:fs/promises'
import { otherMendsOn } from '../core/plan/planFrame'
import { analyseScene } from '../core/evaluate/analyseScene'
import { isLocked, sceneSchema, type Scene } from '../core/scene/scene'
import { MediaError } from '../server/media/mediaError'
import { CliError } from './cliError'
import { EXIT } from './exitCodes'
import { mattesBeside } from './mend'
import { readDocument, withFootage, writeWhole } from './plate'

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
  try {
    return await withFootage(
      options,
      known,
      say,
      signal,
      async ({ source, shape, firstFrame, lastFrame }) => {
        const tracks = new Map((document?.tracks ?? []).map((track) => [track.id, track]))
        const otherMends = Object.fromEntries(
          Array.from({ length: lastFrame - firstFrame + 1 }, (_, i) => [
            firstFrame + i,
            otherMendsOn(document?.mends ?? [], tracks, firstFrame + i),
          ]),
        )
        const scene = await analyseScene(
          { range: { firstFrame, lastFrame }, otherMends },
          {
            plate: shape,
            readRect: source.readRect,
            readMatte: mattesBeside(options.mends ?? '', signal),
            readStill: async () => null,
          },
          {
            shouldStop: () => signal.aborted,
            onProgress: (done, total) => say(`\r${done} of ${total} steps  `),
          },
        )
        if (!scene) throw new MediaError('stopped', 'Stopped. Nothing was written.')
        say('\n')
        await writeWhole(options.out, `${JSON.stringify(scene)}\n`)
        return {
          frames: scene.plate.frameCount,
          layers: scene.layers.length,
          isLocked: isLocked(scene),
          leastSure: Math.min(...scene.layers[0]!.sure),
          out: options.out,
        }
      },
    )
  } catch (cause) {
    if (!(cause instanceof MediaError)) throw cause
    throw new CliError(cause.code === 'stopped' ? EXIT.stopped : EXIT.plate, cause.message, { cause })
  }
}

/** @throws CliError in words when the file is no scene. */
export async function readScene(path: string): Promise<Scene> {
  const text = await readFile(path, 'utf8').catch((cause: Error) => {
    throw new CliError(EXIT.mends, `${path} cannot be read: ${cause.message}`)
  })
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch (cause) {
    throw new CliError(EXIT.mends, `${path} is not JSON.`, { cause })
  }
  const result = sceneSchema.safeParse(json)
  if (result.success) return result.data
  const [issue] = result.error.issues
  throw new CliError(
    EXIT.mends,
    `${path} cannot be used as scene motion: ${issue?.path.join('.')} ${issue?.message}. Make it with the scene command.`,
  )
}
