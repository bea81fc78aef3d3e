import { randomUUID } from 'node:crypto'
import { rm } from 'node:fs/promises'
import { join } from 'node:path'
import { and, count, eq, sql } from 'drizzle-orm'
import { documentSchema, type MendDocument } from '../../core/document/document'
import { finishedChannels } from '../../core/evaluate/finished'
import type { VersionView } from '../../core/jobs/view'
import type { Scene } from '../../core/scene/scene'
import { ViewMapping } from '../../core/sphere/straightView'
import { tracksById } from '../../core/document/tracks'
import { upgradeDocument } from '../../core/document/upgrade'
import type { FrameRange, FrameRate } from '../../core/time'
import type { ComputePool } from '../../workers/pool'
import type { PlateReference } from '../../workers/protocol'
import type { ServerContext } from '../context.server'
import { plates, renderChunks, versions } from '../db/schema'
import { makeFolder, putFolderInPlace } from '../durable.server'
import { announce } from '../events.server'
import { encodeFrames } from '../media/encode.server'
import { RENDER_FORMATS } from '../media/formats'
import { MediaError } from '../media/mediaError'
import { plateReference } from '../plateFrames.server'
import { requireRoom } from '../room.server'
import {
  chunkName,
  findVersion,
  sceneOfVersion,
  stateOfVersion,
  versionFolder,
  viewsOfVersion,
  type Version,
} from '../versions.server'
import { enqueue, type JobPayload } from './queue.server'
import { renderFrames, type RenderedView } from './renderFrames.server'

const NEWS_EVERY_MS = 250
/** A version that waits for the scene's motion is looked at so often. */
const SCENE_CHECK_SECONDS = 1

/**
 * Renders one chunk of a version into a folder of its own, under a temporary name until it is whole.
 * Doing it twice, even at once, gives the same files: whoever renames first wins, the other's are dropped.
 */
export async function renderChunk(
  context: ServerContext,
  pool: ComputePool,
  { versionId, index }: JobPayload<'render_chunk'>,
  signal: AbortSignal,
): Promise<void> {
  const { db } = context.database
  const version = await findVersion(context, versionId)
  if (!version || !isOpen(version)) return
  const here = and(eq(renderChunks.versionId, versionId), eq(renderChunks.index, index))
  const [chunk] = await db.select().from(renderChunks).where(here)
  if (!chunk || chunk.isDone) return
  const scene = await sceneOfVersion(db, version)
  const ofViews = await viewsOfVersion(db, version)
  if (scene === 'awaited' || ofViews === 'awaited') {
    await enqueue(db, 'render_chunk', { versionId, index }, `render:${versionId}:${index}`, {
      delaySeconds: SCENE_CHECK_SECONDS,
    })
    return
  }
  await db
    .update(renderChunks)
    .set({ framesDone: 0, attempts: sql`${renderChunks.attempts} + 1` })
    .where(here)
  await db
    .update(versions)
    .set({ state: 'rendering', startedAt: sql`coalesce(${versions.startedAt}, now())` })
    .where(and(eq(versions.id, versionId), eq(versions.state, 'waiting')))

  const plate = await plateReferenceOf(context, version)
  const partial = join(versionFolder(context, versionId), `${chunkName(index)}.${randomUUID()}.partial`)
  await makeFolder(partial)
  try {
    await requireRoom(partial)
    let lastNews = 0
    await renderInto(
      context,
      pool,
      { ...version, scene, views: ofViews },
      plate,
      chunk,
      partial,
      signal,
      async (framesDone) => {
        if (Date.now() - lastNews < NEWS_EVERY_MS) return
        lastNews = Date.now()
        await requireRoom(partial)
        await db.update(renderChunks).set({ framesDone }).where(here)
        await announce(db, { kind: 'version', id: versionId })
        if (!isOpenState(await stateOfVersion(db, versionId))) throw new MediaError('stopped', 'Stopped.')
      },
    )
    await putFolderInPlace(partial, join(versionFolder(context, versionId), chunkName(index))).catch(
      (cause: NodeJS.ErrnoException) => {
        if (cause.code !== 'ENOTEMPTY' && cause.code !== 'EEXIST') throw cause
      },
    )
  } catch (cause) {
    if (!isOpenState(await stateOfVersion(db, versionId))) return // cancelled meanwhile: nothing failed
    throw cause
  } finally {
    await rm(partial, { recursive: true, force: true })
  }
  await db.transaction(async (tx) => {
    // One at a time, so that exactly one of the last chunks sees that none is left.
    const [open] = await tx
      .select({ state: versions.state })
      .from(versions)
      .where(eq(versions.id, versionId))
      .for('update')
    await tx
      .update(renderChunks)
      .set({ isDone: true, framesDone: chunk.lastFrame - chunk.firstFrame + 1 })
      .where(here)
    const [left] = await tx
      .select({ count: count() })
      .from(renderChunks)
      .where(and(eq(renderChunks.versionId, versionId), eq(renderChunks.isDone, false)))
    if (left!.count === 0 && open && ['waiting', 'rendering'].includes(open.state)) {
      await tx.update(versions).set({ state: 'assembling' }).where(eq(versions.id, versionId))
      await enqueue(tx, 'assemble_version', { versionId }, `assemble:${versionId}`)
    }
    await announce(tx, { kind: 'version', id: versionId })
  })
}

export const isOpenState = (state: Version['state'] | undefined): boolean =>
  state !== undefined && ['waiting', 'rendering', 'assembling'].includes(state)

export const isOpen = ({ state }: Version): boolean => isOpenState(state)

async function renderInto(
  context: ServerContext,
  pool: ComputePool,
  version: Version & { readonly scene: Scene | null },
  plate: PlateReference & FrameRange & { readonly frameRate: FrameRate },
  { firstFrame, lastFrame }: FrameRange,
  folder: string,
  signal: AbortSignal,
  onProgress: (framesDone: number) => Promise<void>,
): Promise<void> {
  const isPictures = version.format === 'png'
  const { mends, tracks } = readStored(version.document)
  // Holes of an all-round picture are black: its views know no alpha.
  const keepsAlpha = RENDER_FORMATS[version.format].keepsAlpha && version.views.length === 0
  const channels = finishedChannels(plate.channels, mends, keepsAlpha)
  const sink = encodeFrames(
    {
      format: version.format,
      path: join(folder, isPictures ? '%07d.png' : 'chunk.nut'),
      startNumber: firstFrame,
      width: plate.width,
      height: plate.height,
      channels,
      bitDepth: plate.bitDepth,
      frameRate: plate.frameRate,
      container: isPictures ? undefined : 'nut',
    },
    signal,
  )
  const document = { mends, tracks: tracksById(tracks), plate, scene: version.scene }
  try {
    const views = await Promise.all(version.views.map((one) => openView(context, one)))
    const run = { frames: context.frames, pool, plate, document, channels, views, signal }
    await renderFrames(run, { firstFrame, lastFrame }, sink, onProgress)
    await sink.finish()
  } catch (cause) {
    sink.abort()
    throw cause
  }
}

/** A view as frames of it are mended. @throws Error where its shot is gone. */
export async function openView(
  context: ServerContext,
  { shotId, view, document, scene }: VersionView,
): Promise<RenderedView> {
  const [plate] = await context.database.db.select().from(plates).where(eq(plates.shotId, shotId))
  if (!plate) throw new Error(`the view ${shotId} has no plate`)
  const { mends, tracks } = readStored(document)
  const range = { firstFrame: plate.firstFrame, lastFrame: plate.firstFrame + plate.frameCount - 1 }
  return {
    mapping: new ViewMapping(view, plate.width),
    plate: plateReference(context, plate),
    document: {
      mends,
      tracks: tracksById(tracks),
      plate: { ...range, width: plate.width, height: plate.height },
      scene,
    },
  }
}

/** A version keeps the document as it was; an older form is brought forward when it is read. */
export const readStored = (stored: unknown): MendDocument => documentSchema.parse(upgradeDocument(stored))

async function plateReferenceOf(context: ServerContext, version: Version) {
  const [plate] = await context.database.db.select().from(plates).where(eq(plates.shotId, version.shotId))
  if (!plate) throw new Error(`the shot ${version.shotId} has no plate`)
  return {
    ...plateReference(context, plate),
    frameRate: { num: plate.rateNum, den: plate.rateDen },
    firstFrame: plate.firstFrame,
    lastFrame: plate.firstFrame + plate.frameCount - 1,
  }
}
