/** The `mend` command: evaluate and encode, one frame after the other. */
import { tracksById } from '../core/document/tracks'
import { mkdir, readdir, rename, rm } from 'node:fs/promises'
import { basename, dirname, extname, join } from 'node:path'
import type { MendDocument } from '../core/document/document'
import { evaluateFrame } from '../core/evaluate/evaluateFrame'
import { finishedChannels, layPatches } from '../core/evaluate/finished'
import type { Clip } from '../core/shot/clip'
import { planFrame } from '../core/plan/planFrame'
import type { ShotDocument } from '../core/plan/shotDocument'
import { wholePicture } from '../core/image/rect'
import type { MendMeasure } from '../core/measure/mendMeasure'
import { snagsOfMeasures, type Snag } from '../core/snags/snags'
import type { Scene } from '../core/scene/scene'
import type { FrameRange } from '../core/time'
import { encodeFrames } from '../server/media/encode.server'
import { tagRendered } from '../server/media/sphere.server'
import { RENDER_FORMATS, type RenderFormat } from '../server/media/formats'
import type { MediaShape } from '../server/media/probe.server'
import { isPattern } from '../server/media/sequence.server'
import { createCache } from '../workers/cache'
import { CliError } from './cliError'
import { EXIT } from './exitCodes'
import { marksBeside, mattesBeside, stillsBeside } from './picturesBeside'
import { readScene } from './readScene'
import { onFootage, readDocument, requireGoing, type OpenFootage } from './plate'

export interface MendOptions {
  readonly plate: string
  readonly mends: string
  readonly out: string
  readonly frames?: string
  readonly rate: string
  /** scene.json of the same plate; absent: without scene motion. */
  readonly scene?: string
}

export interface MendSummary {
  readonly frames: number
  readonly framesPerSecond: number
  readonly out: string
  /** What mends could not do, with the frame. */
  readonly notes: readonly { readonly frame: number; readonly mendId: string; readonly detail: string }[]
  /** Where a mend probably shows. */
  readonly snags: readonly Pick<Snag, 'frame' | 'mendId' | 'reason' | 'words'>[]
  /** Of mends that gather from other frames: the mean share of their areas that these show. */
  readonly seenShares: Readonly<Record<string, number>>
}

/** @throws CliError with the exit code. @param say  Takes progress for people. */
export async function mendFootage(
  options: MendOptions,
  say: (text: string) => void,
  signal: AbortSignal,
): Promise<MendSummary> {
  const document = await readDocument(options.mends)
  const format = formatOf(options.out)
  const scene = options.scene ? await readScene(options.scene) : null
  return onFootage(
    options,
    document.plate,
    say,
    signal,
    async (footage) => {
      const range = readRange(options.frames, footage.firstFrame, footage.lastFrame)
      return render(options, format, document, scene, footage, range, say, signal)
    },
    (shape) => checkSize(shape, document, options),
  )
}

function formatOf(out: string): RenderFormat {
  const ending = extname(out).toLowerCase()
  if (isPattern(out) && ending === '.png') return 'png'
  if (!isPattern(out) && ending === '.mkv') return 'ffv1'
  if (!isPattern(out) && ending === '.webm') return 'vp9'
  throw new CliError(
    EXIT.usage,
    `--out must be a pattern such as out/shot.%04d.png, or end in .mkv or .webm. Received ${out}`,
  )
}

function checkSize(shape: MediaShape, { plate }: MendDocument, options: MendOptions): void {
  if (shape.width === plate.width && shape.height === plate.height) return
  throw new CliError(
    EXIT.mends,
    `${options.mends} was made for ${plate.width} × ${plate.height} px; ${options.plate} is ${shape.width} × ${shape.height} px. Use the plate that it was made for.`,
  )
}

function readRange(text: string | undefined, firstFrame: number, lastFrame: number): FrameRange {
  if (text === undefined) return { firstFrame, lastFrame }
  const match = /^(\d+)-(\d+)$/.exec(text)
  const range = { firstFrame: Number(match?.[1]), lastFrame: Number(match?.[2]) }
  if (
    !match ||
    range.firstFrame > range.lastFrame ||
    range.firstFrame < firstFrame ||
    range.lastFrame > lastFrame
  ) {
    throw new CliError(
      EXIT.usage,
      `--frames must be two frames from ${firstFrame} to ${lastFrame}, such as ${firstFrame}-${lastFrame}. Received ${text}`,
    )
  }
  return range
}

async function render(
  options: MendOptions,
  format: RenderFormat,
  document: MendDocument,
  scene: Scene | null,
  { source: pictures, shape, ...plate }: OpenFootage,
  range: FrameRange,
  say: (text: string) => void,
  signal: AbortSignal,
): Promise<MendSummary> {
  const folder = dirname(options.out)
  const partial = join(folder, `.fillagrant-${process.pid}.partial`)
  await mkdir(partial, { recursive: true }).catch((cause: Error) => {
    throw new CliError(EXIT.output, `${folder} cannot be written to: ${cause.message}`)
  })
  try {
    const channels = finishedChannels(shape.channels, document.mends, RENDER_FORMATS[format].keepsAlpha)
    const sink = encodeFrames(
      {
        format,
        path: join(partial, basename(options.out)),
        startNumber: range.firstFrame,
        width: shape.width,
        height: shape.height,
        channels,
        bitDepth: shape.bitDepth,
        frameRate: shape.frameRate,
      },
      signal,
    )
    const notes: { frame: number; mendId: string; detail: string }[] = []
    const looked = lookedAt()
    const shot: ShotDocument = {
      mends: document.mends,
      tracks: tracksById(document.tracks),
      plate: { ...plate, width: shape.width, height: shape.height },
      scene,
    }
    const total = range.lastFrame - range.firstFrame + 1
    const source: Clip = {
      plate: shape,
      readRect: pictures.readRect,
      readMatte: mattesBeside(options.mends, signal),
      readStill: stillsBeside(options.mends, shape),
      readMark: marksBeside(options.mends),
      cache: createCache(),
    }
    const begun = performance.now()
    const rate = (done: number) => done / ((performance.now() - begun) / 1000)
    for (let frame = range.firstFrame; frame <= range.lastFrame && !signal.aborted; frame++) {
      const plan = planFrame(shot, frame)
      const {
        patches,
        measures,
        notes: said,
      } = await evaluateFrame(plan, source, {
        shouldStop: () => signal.aborted,
      })
      looked.add(frame, measures)
      for (const { mendId, detail } of said) notes.push({ frame, mendId, detail })
      await sink.write(layPatches(await pictures.readRect(frame, wholePicture(shape)), patches, channels))
      const done = frame - range.firstFrame + 1
      say(
        `\r${done} of ${total} frames, ${rate(done).toFixed(1)} a second, ${Math.ceil((total - done) / rate(done))} s left  `,
      )
    }
    requireGoing(signal)
    await sink.finish()
    say('\n')
    for (const name of await readdir(partial)) {
      if (shape.sphere) await tagRendered(format, join(partial, name), shape.sphere, shape)
      await rename(join(partial, name), join(folder, name))
    }
    const framesPerSecond = Number(rate(total).toPrecision(3))
    return { frames: total, framesPerSecond, out: options.out, notes, ...looked.total() }
  } finally {
    await rm(partial, { recursive: true, force: true })
  }
}

/** What the finished frames tell, gathered as they come in their order. */
function lookedAt() {
  const snags: Pick<Snag, 'frame' | 'mendId' | 'reason' | 'words'>[] = []
  const seen = new Map<string, { sum: number; count: number }>()
  let before: readonly MendMeasure[] = []
  return {
    add(frame: number, measures: readonly MendMeasure[]): void {
      for (const { mendId, reason, words } of snagsOfMeasures(measures, frame, before))
        snags.push({ frame, mendId, reason, words })
      before = measures
      for (const { mendId, gathered } of measures) {
        if (!gathered) continue
        const { sum, count } = seen.get(mendId) ?? { sum: 0, count: 0 }
        seen.set(mendId, { sum: sum + gathered.seenShare, count: count + 1 })
      }
    },
    total: () => ({
      snags,
      seenShares: Object.fromEntries(
        [...seen].map(([id, { sum, count }]) => [id, Number((sum / count).toFixed(3))]),
      ),
    }),
  }
}
