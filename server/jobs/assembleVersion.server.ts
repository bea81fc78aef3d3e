import { createWriteStream } from 'node:fs'
import { readdir, rename, rm, stat, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { pipeline } from 'node:stream/promises'
import { and, asc, eq } from 'drizzle-orm'
import { ZipFile } from 'yazl'
import type { ServerContext } from '../context.server'
import { renderChunks, shots, versions } from '../db/schema'
import { announce } from '../events.server'
import { RENDER_FORMATS } from '../media/formats'
import { runMedia } from '../media/ffmpeg.server'
import { MediaError } from '../media/mediaError'
import { chunkName, findVersion, versionFolder } from '../versions.server'
import type { JobPayload } from './queue.server'
import { isOpen } from './renderChunk.server'

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
  const [shot] = await db.select({ name: shots.name }).from(shots).where(eq(shots.id, version.shotId))
  const stem = `${safeName(shot!.name)}_v${String(version.number).padStart(3, '0')}`
  const fileName = `${stem}.${RENDER_FORMATS[version.format].ending}`
  const chunks = await db
    .select()
    .from(renderChunks)
    .where(eq(renderChunks.versionId, versionId))
    .orderBy(asc(renderChunks.index))
  const partial = join(folder, `${fileName}.partial`)
  if (version.format === 'png')
    await zipPictures(
      folder,
      chunks.map((chunk) => chunk.index),
      stem,
      partial,
    )
  else
    await joinVideo(
      folder,
      chunks.map((chunk) => chunk.index),
      version.format === 'vp9' ? 'webm' : 'matroska',
      partial,
      signal,
    )
  await rename(partial, join(folder, fileName))
  const { size } = await stat(join(folder, fileName))
  await db
    .update(versions)
    .set({ state: 'done', fileName, sizeBytes: size, finishedAt: new Date() })
    .where(and(eq(versions.id, versionId), eq(versions.state, 'assembling')))
  // Chunks, and what lost workers left under temporary names.
  for (const name of await readdir(folder))
    if (name !== fileName) await rm(join(folder, name), { recursive: true, force: true })
  await announce(db, { kind: 'version', id: versionId })
}

const safeName = (name: string): string => name.replace(/[^A-Za-z0-9._-]+/g, '_').slice(0, 80)

async function zipPictures(
  folder: string,
  indices: readonly number[],
  stem: string,
  target: string,
): Promise<void> {
  const zip = new ZipFile()
  for (const index of indices) {
    const pictures = (await readdir(join(folder, chunkName(index)))).sort()
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
  await pipeline(zip.outputStream, createWriteStream(target))
}

async function joinVideo(
  folder: string,
  indices: readonly number[],
  container: string,
  target: string,
  signal: AbortSignal,
): Promise<void> {
  const list = join(folder, 'chunks.txt')
  // Names of our own making: digits and letters, nothing to escape.
  await writeFile(
    list,
    ['ffconcat version 1.0', ...indices.map((index) => `file ${chunkName(index)}/chunk.nut`)].join('\n'),
  )
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
    throw new MediaError(
      'cannot-write',
      `The chunks could not be joined (${stderr.trim().split('\n')[0]?.slice(0, 200)}).`,
    )
  await rm(list, { force: true })
}
