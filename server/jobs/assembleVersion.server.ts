import { createWriteStream } from 'node:fs'
import { readdir, rm, stat, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { pipeline } from 'node:stream/promises'
import { and, asc, eq } from 'drizzle-orm'
import { ZipFile } from 'yazl'
import type { Size } from '../../core/image/rect'
import type { ServerContext } from '../context.server'
import type { Database } from '../db/client.server'
import { renderChunks, versions } from '../db/schema'
import { bytesIn } from '../house/disk.server'
import { requireRoom } from '../room.server'
import { putInPlace } from '../durable.server'
import { announce } from '../events.server'
import { log } from '../log.server'
import { RENDER_FORMATS } from '../media/formats'
import { reasonIn, runMedia } from '../media/ffmpeg.server'
import { MediaError } from '../media/mediaError'
import { tagRendered, UPRIGHT, type SpherePose } from '../media/sphere.server'
import { askForProof } from '../proofs.server'
import { findShot, type Plate } from '../shots.server'
import { chunkName, findVersion, stateOfVersion, versionFolder, type RenderChunk } from '../versions.server'
import type { JobPayload } from './queue.server'
import { isOpen, isOpenState } from './renderChunk.server'
import { versionTitle } from '../../core/versionTitle'

const JOIN_TIMEOUT_MS = 600_000

/** Joins the chunks of a version into the one file that is taken away. */
export async function assembleVersion(
  context: ServerContext,
  { versionId }: JobPayload<'assemble_version'>,
  signal: AbortSignal,
): Promise<void> {
  const { db } = context.database
  const version = await findVersion(context, versionId)
  if (!version || !isOpen(version)) return
  const folder = versionFolder(context, versionId)
  const found = await findShot(db, version.shotId)
  if (!found) return // in the bin meanwhile
  const { shot, plate } = found
  const sphere = shot.isAllRound ? (plate.sphere ?? UPRIGHT) : null
  const stem = `${safeName(shot.name)}_${versionTitle(version.number)}`
  const fileName = `${stem}.${RENDER_FORMATS[version.format].ending}`
  const chunks = await db
    .select()
    .from(renderChunks)
    .where(eq(renderChunks.versionId, versionId))
    .orderBy(asc(renderChunks.index))
  const indices = chunks.map((chunk) => chunk.index)
  const partial = join(folder, `${fileName}.partial`)
  const isWhole = await untilCancelled(db, versionId, signal, async (calledOff) => {
    await requireRoom(folder, await bytesIn(folder))
    if (version.format === 'png') {
      if (sphere) await tagPictures(folder, indices, sphere, plate, calledOff)
      await zipPictures(folder, indices, stem, partial, calledOff)
    } else {
      const container = version.format === 'vp9' ? 'webm' : 'matroska'
      await joinVideo(folder, chunks, plate, container, partial, calledOff)
      if (sphere) await tagRendered(version.format, partial, sphere, plate)
    }
    await putInPlace(partial, join(folder, fileName))
  })
  if (!isWhole) return
  const { size } = await stat(join(folder, fileName))
  await db.transaction(async (tx) => {
    await tx
      .update(versions)
      .set({ state: 'done', fileName, sizeBytes: size, finishedAt: new Date() })
      .where(and(eq(versions.id, versionId), eq(versions.state, 'assembling')))
    await askForProof(tx, version.shotId, versionId)
  })
  // Chunks, and what lost workers left under temporary names.
  for (const name of await readdir(folder))
    if (name !== fileName) await rm(join(folder, name), { recursive: true, force: true })
  await announce(db, { kind: 'version', id: versionId })
}

const LOOK_EVERY_MS = 500

/**
 * Works on a version until somebody cancels it: its folder is gone by then.
 * @returns Whether the work was done; false where it was cancelled. @throws what `work` throws while nobody has cancelled.
 */
async function untilCancelled(
  db: Database,
  versionId: string,
  signal: AbortSignal,
  work: (calledOff: AbortSignal) => Promise<void>,
): Promise<boolean> {
  const isCancelled = async () => !isOpenState(await stateOfVersion(db, versionId))
  const cancelled = new AbortController()
  const timer = setInterval(() => {
    isCancelled().then(
      (is) => is && cancelled.abort(),
      (cause: unknown) => log.warn({ err: cause, versionId }, 'whether a version was cancelled is not known'),
    )
  }, LOOK_EVERY_MS)
  try {
    await work(AbortSignal.any([signal, cancelled.signal]))
    return !(await isCancelled())
  } catch (cause) {
    if (await isCancelled()) return false
    throw cause
  } finally {
    clearInterval(timer)
  }
}

const safeName = (name: string): string => name.replace(/[^A-Za-z0-9._-]+/g, '_').slice(0, 80)

async function tagPictures(
  folder: string,
  indices: readonly number[],
  sphere: SpherePose,
  size: Size,
  signal: AbortSignal,
): Promise<void> {
  for (const index of indices) {
    for (const picture of await readdir(join(folder, chunkName(index)))) {
      signal.throwIfAborted()
      if (picture.endsWith('.png'))
        await tagRendered('png', join(folder, chunkName(index), picture), sphere, size)
    }
  }
}

async function zipPictures(
  folder: string,
  indices: readonly number[],
  stem: string,
  target: string,
  signal: AbortSignal,
): Promise<void> {
  const zip = new ZipFile()
  // What cannot be read is said by the archive itself, not by its stream.
  const broken = new AbortController()
  zip.on('error', (cause: Error) => broken.abort(cause))
  for (const index of indices) {
    const pictures = (await readdir(join(folder, chunkName(index)))).filter((name) => name.endsWith('.png')).sort() // prettier-ignore
    for (const picture of pictures) {
      const frame = Number(picture.replace(/\D.*$/, ''))
      // Pictures are compressed already.
      zip.addFile(
        join(folder, chunkName(index), picture),
        `${stem}/${stem}.${String(frame).padStart(4, '0')}.png`,
        { compress: false },
      )
    }
  }
  zip.end()
  try {
    const stopped = AbortSignal.any([signal, broken.signal])
    await pipeline(zip.outputStream, createWriteStream(target), { signal: stopped })
  } catch (cause) {
    if (!broken.signal.aborted) throw cause
    const { message } = broken.signal.reason as Error
    throw new MediaError('cannot-write', `A rendered picture could not be read again (${message}).`)
  }
}

async function joinVideo(
  folder: string,
  chunks: readonly RenderChunk[],
  { rateNum, rateDen }: Pick<Plate, 'rateNum' | 'rateDen'>,
  container: string,
  target: string,
  signal: AbortSignal,
): Promise<void> {
  const list = join(folder, 'chunks.txt')
  // A chunk does not say how long its last frame is shown: untold, the next one would begin a frame too early.
  const linesOf = ({ index, firstFrame, lastFrame }: RenderChunk): string[] => [
    `file ${chunkName(index)}/chunk.nut`,
    `duration ${(((lastFrame - firstFrame + 1) * rateDen) / rateNum).toFixed(6)}`,
  ]
  // Names of our own making: digits and letters, nothing to escape.
  await writeFile(list, ['ffconcat version 1.0', ...chunks.flatMap(linesOf)].join('\n'))
  const { code, stderr } = await runMedia(
    'ffmpeg',
    [
      '-v',
      'error',
      '-nostdin',
      '-y',
      '-protocol_whitelist',
      'file,pipe',
      '-f',
      'concat',
      '-i',
      list,
      '-c',
      'copy',
      '-f',
      container,
      target,
    ],
    JOIN_TIMEOUT_MS,
    signal,
  )
  if (code !== 0)
    throw new MediaError('cannot-write', `The chunks could not be joined (${reasonIn(stderr)}).`)
  await rm(list, { force: true })
}
