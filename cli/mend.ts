/** The `mend` command: decode, evaluate, encode, one frame after the other. */
import { mkdir, readdir, rename, rm } from 'node:fs/promises'
import { existsSync } from 'node:fs'
import { basename, dirname, extname, join, resolve } from 'node:path'
import type { MendDocument } from '../core/mend/document'
import { evaluateFrame, type FrameSource } from '../core/mend/evaluate'
import { placeMends } from '../core/mend/place'
import { cropSamples, pasteSamplesInto } from '../core/image/samples'
import { decodeFrames } from '../server/media/decode.server'
import { encodeFrames } from '../server/media/encode.server'
import type { RenderFormat } from '../server/media/formats'
import { MediaError } from '../server/media/mediaError'
import { matteFile, readMattePicture, cutMatte } from '../server/media/matte.server'
import type { MediaInput, MediaShape } from '../server/media/probe.server'
import { isPattern } from '../server/media/sequence.server'
import { CliError } from './cliError'
import { EXIT } from './exitCodes'
import { openPlate, readDocument } from './plate'

export interface MendOptions {
  readonly plate: string
  readonly mends: string
  readonly out: string
  readonly frames?: string
  readonly rate: string
}

export interface MendSummary {
  readonly frames: number
  readonly framesPerSecond: number
  readonly out: string
  /** What mends could not do, with the frame. */
  readonly notes: readonly { readonly frame: number; readonly mendId: string; readonly detail: string }[]
}

/** @throws CliError with the exit code. @param say  Takes progress for people. */
export async function mendFootage(options: MendOptions, say: (text: string) => void, signal: AbortSignal): Promise<MendSummary> {
  const document = await readDocument(options.mends)
  const format = formatOf(options.out)
  try {
    const { input, firstFrame, shape, expected } = await openPlate(options, document.plate, signal)
    checkSize(shape, document, options)
    const last = firstFrame + (expected ?? document.plate.frameCount) - 1
    const range = readRange(options.frames, firstFrame, last)
    return await render(options, format, document, input, { ...shape, expectedFrames: expected }, firstFrame, range, say, signal)
  } catch (cause) {
    if (cause instanceof MediaError) {
      const exitCode = cause.code === 'stopped' ? EXIT.stopped : cause.code === 'cannot-write' ? EXIT.output : EXIT.plate
      throw new CliError(exitCode, cause.message, { cause })
    }
    throw cause
  }
}

function formatOf(out: string): RenderFormat {
  const ending = extname(out).toLowerCase()
  if (isPattern(out) && ending === '.png') return 'png'
  if (!isPattern(out) && ending === '.mkv') return 'ffv1'
  if (!isPattern(out) && ending === '.webm') return 'vp9'
  throw new CliError(EXIT.usage, `--out must be a pattern such as out/shot.%04d.png, or end in .mkv or .webm. Received ${out}`)
}

function checkSize(shape: MediaShape, { plate }: MendDocument, options: MendOptions): void {
  if (shape.width === plate.width && shape.height === plate.height) return
  throw new CliError(
    EXIT.mends,
    `${options.mends} was made for ${plate.width} × ${plate.height} px; ${options.plate} is ${shape.width} × ${shape.height} px. Use the plate that it was made for.`,
  )
}

interface FrameRange {
  readonly firstFrame: number
  readonly lastFrame: number
}

function readRange(text: string | undefined, firstFrame: number, lastFrame: number): FrameRange {
  if (text === undefined) return { firstFrame, lastFrame }
  const match = /^(\d+)-(\d+)$/.exec(text)
  const range = { firstFrame: Number(match?.[1]), lastFrame: Number(match?.[2]) }
  if (!match || range.firstFrame > range.lastFrame || range.firstFrame < firstFrame || range.lastFrame > lastFrame) {
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
  input: MediaInput,
  shape: MediaShape,
  firstFrame: number,
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
    const sink = encodeFrames(
      {
        format,
        path: join(partial, basename(options.out)),
        startNumber: range.firstFrame,
        width: shape.width,
        height: shape.height,
        channels: shape.channels,
        bitDepth: shape.bitDepth,
        frameRate: shape.frameRate,
      },
      signal,
    )
    const notes: { frame: number; mendId: string; detail: string }[] = []
    const tracks = new Map(document.tracks.map((track) => [track.id, track]))
    const total = range.lastFrame - range.firstFrame + 1
    const begun = performance.now()
    let frame = firstFrame - 1
    let done = 0
    const rate = () => done / ((performance.now() - begun) / 1000)
    for await (const samples of decodeFrames(input, shape, signal)) {
      frame++
      if (frame < range.firstFrame) continue
      if (frame > range.lastFrame) break
      const source: FrameSource = {
        plate: shape,
        readRect: async (_frame, rect) => cropSamples(samples, rect),
        readMatte: (pattern, at) => readMatteOf(options.mends, pattern, at, signal),
      }
      const { patches, notes: said } = await evaluateFrame(placeMends(document.mends, tracks, frame), frame, source, {
        shouldStop: () => signal.aborted,
      })
      for (const patch of patches) pasteSamplesInto(samples, patch.samples, patch.rect)
      for (const { mendId, detail } of said) notes.push({ frame, mendId, detail })
      await sink.write(samples)
      done++
      say(`\r${done} of ${total} frames, ${rate().toFixed(1)} a second, ${Math.ceil((total - done) / rate())} s left  `)
    }
    if (signal.aborted) throw new MediaError('stopped', 'Stopped. Nothing was written.')
    await sink.finish()
    say('\n')
    for (const name of await readdir(partial)) await rename(join(partial, name), join(folder, name))
    return { frames: done, framesPerSecond: Math.round(rate() * 10) / 10, out: options.out, notes }
  } finally {
    await rm(partial, { recursive: true, force: true })
  }
}

/** A picture of a matte sequence; patterns are looked up beside the mends file. */
async function readMatteOf(mendsPath: string, pattern: string, frame: number, signal: AbortSignal) {
  if (pattern.startsWith('matte:')) {
    throw new CliError(
      EXIT.mends,
      `${mendsPath} uses a matte that was brought into the application. Give its pictures as a pattern such as mattes/clamp.####.png instead.`,
    )
  }
  const path = resolve(dirname(mendsPath), matteFile(pattern, frame))
  return existsSync(path) ? cutMatte(await readMattePicture(path, signal)) : null
}
