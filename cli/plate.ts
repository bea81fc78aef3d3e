/** What the commands share: the plate they work on and the mends they read. */
import { randomUUID } from 'node:crypto'
import { existsSync } from 'node:fs'
import { mkdtemp, readFile, rename, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { basename, join } from 'node:path'
import { parseDocument, type MendDocument } from '../core/document/document'
import type { PictureSource } from '../core/motion/runTrack'
import type { FrameRate } from '../core/time'
import { createDirectoryStore } from '../server/frames/store.server'
import { decodeFrames } from '../server/media/decode.server'
import { DamageError } from '../server/media/damage.server'
import { MediaError } from '../server/media/mediaError'
import { probeMedia, type MediaInput, type MediaShape } from '../server/media/probe.server'
import { pictureName } from '../server/media/picture.server'
import { isPattern, listSequence, requireAlike } from '../server/media/sequence.server'
import { CliError } from './cliError'
import { EXIT } from './exitCodes'

export async function readDocument(path: string): Promise<MendDocument> {
  const text = await readFile(path, 'utf8').catch((cause: Error) => {
    throw new CliError(EXIT.mends, `${path} cannot be read: ${cause.message}`)
  })
  const result = parseDocument(text)
  if (!result.ok) throw new CliError(EXIT.mends, `${path} cannot be used. ${result.detail}`)
  return result.document
}

export interface PlateOptions {
  readonly plate: string
  readonly rate: string
  /** Goes on over frames that came damaged. */
  readonly takeDamaged?: boolean
}

/** What is known about a plate before it is opened, from a document made on it. */
export interface KnownPlate {
  readonly firstFrame: number
  readonly frameRate: FrameRate
}

/** Finds and probes footage. A video counts from the first frame of the document. */
export async function openPlate({ plate, rate }: PlateOptions, known: KnownPlate, signal: AbortSignal) {
  const shownName = basename(plate)
  if (!isPattern(plate)) {
    if (!existsSync(plate)) throw new CliError(EXIT.plate, `${plate} does not exist. Check the path.`)
    const input: MediaInput = { kind: 'video', path: plate, shownName }
    const shape = await probeMedia(input, signal)
    return { input, shape, firstFrame: known.firstFrame, expected: shape.expectedFrames }
  }
  const { startNumber, count } = await listSequence(plate)
  const input: MediaInput = {
    kind: 'sequence',
    pattern: plate,
    startNumber,
    frameRate: readRate(rate, known.frameRate),
    shownName,
  }
  const shape = await probeMedia(input, signal)
  await requireAlike(
    plate,
    startNumber,
    Array.from({ length: count }, (_, i) => pictureName(shownName, startNumber + i)),
    shape,
    signal,
  )
  return { input, shape, firstFrame: startNumber, expected: { count, isExact: true } }
}

/** @param text  Empty: `fallback`. @throws CliError */
export function readRate(text: string, fallback: FrameRate): FrameRate {
  if (text === '') return fallback
  const match = /^(\d+)(?:\/(\d+))?$/.exec(text)
  if (!match || Number(match[1]) < 1 || Number(match[2] ?? 1) < 1)
    throw new CliError(EXIT.usage, `--rate must be a number such as 24 or 24000/1001. Received ${text}`)
  return { num: Number(match[1]), den: Number(match[2] ?? 1) }
}

export interface OpenFootage {
  readonly source: PictureSource
  readonly shape: MediaShape
  readonly firstFrame: number
  readonly lastFrame: number
}

/**
 * Runs `work` with footage that can be read at any frame: it is decoded into a folder of its own first,
 * which goes when the work is done, so that memory does not grow with the clip.
 * @param check  Looks at the footage before any of it is decoded.
 */
async function withFootage<T>(
  options: PlateOptions,
  known: KnownPlate,
  say: (text: string) => void,
  signal: AbortSignal,
  work: (footage: OpenFootage) => Promise<T>,
  check: (shape: MediaShape) => void = () => undefined,
): Promise<T> {
  const { input, firstFrame, shape, expected } = await openPlate(options, known, signal)
  check(shape)
  const folder = await mkdtemp(join(tmpdir(), 'fillagrant-'))
  try {
    const store = createDirectoryStore(folder)
    const plateId = randomUUID()
    const writer = await store.createWriter(plateId)
    let frame = firstFrame
    const whole = { ...shape, expectedFrames: expected }
    for await (const samples of decodeFrames(input, whole, signal, options.takeDamaged)) {
      await writer.write(frame++, samples)
      say(`\rreading frame ${frame - firstFrame}  `)
    }
    await writer.commit()
    const source: PictureSource = {
      plate: shape,
      readRect: (at, rect) => store.readRect(plateId, shape, at, rect),
    }
    return await work({ source, shape, firstFrame, lastFrame: frame - 1 })
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

export const stopped = (): MediaError => new MediaError('stopped', 'Stopped. Nothing was written.')

/** Before anything is written. @throws MediaError when the user has stopped the command. */
export function requireGoing(signal: AbortSignal): void {
  if (signal.aborted) throw stopped()
}

/** `withFootage` for a command: what goes wrong with media becomes its exit code. @throws CliError, also when it was stopped. */
export async function onFootage<T>(
  options: PlateOptions,
  known: KnownPlate,
  say: (text: string) => void,
  signal: AbortSignal,
  work: (footage: OpenFootage) => Promise<T>,
  check?: (shape: MediaShape) => void,
): Promise<T> {
  try {
    return await withFootage(options, known, say, signal, work, check)
  } catch (cause) {
    if (!(cause instanceof MediaError)) throw cause
    const exitCode =
      cause.code === 'stopped' ? EXIT.stopped : cause.code === 'cannot-write' ? EXIT.output : EXIT.plate
    const how = cause instanceof DamageError && cause.isTakeable ? ' That is --take-damaged.' : ''
    throw new CliError(exitCode, cause.message + how, { cause })
  }
}

/** Under a temporary name first, so that nothing half done is left. @throws CliError where it cannot be written. */
export const writeWhole = (path: string, text: string): Promise<void> => writeFileWhole(path, text)

export async function writeFileWhole(path: string, content: string | Uint8Array): Promise<void> {
  const partial = `${path}.${process.pid}.partial`
  await writeFile(partial, content)
    .then(() => rename(partial, path))
    .catch((cause: Error) => {
      throw new CliError(EXIT.output, `${path} cannot be written: ${cause.message}`)
    })
}
