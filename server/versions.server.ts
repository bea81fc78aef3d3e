/** Versions: finished frames, asked for, rendered in chunks, taken away. */
import { randomUUID } from 'node:crypto'
import { rename, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { and, asc, desc, eq, getTableColumns, inArray, isNull, max, sql } from 'drizzle-orm'
import { z } from 'zod'
import { findFill } from '../core/fill/registry'
import { documentSchema, type MendDocument } from '../core/document/document'
import { upgradeDocument } from '../core/document/upgrade'
import type { Scene } from '../core/scene/scene'
import type { SceneStatus } from '../core/jobs/scene'
import type { VersionView } from '../core/jobs/view'
import type { ServerContext } from './context.server'
import type { Database } from './db/client.server'
import { renderChunks, versions } from './db/schema'
import { announce } from './events.server'
import { enqueue } from './jobs/queue.server'
import { refusalOf, RENDER_FORMATS, type RenderFormat } from './media/formats'
import { loadScene } from './scenes.server'
import { documentOf, findShot, loadMends, loadTracks } from './shots.server'
import { viewsForVersion } from './views.server'

export type Version = typeof versions.$inferSelect
export type RenderChunk = typeof renderChunks.$inferSelect

const formats = Object.keys(RENDER_FORMATS) as [RenderFormat, ...RenderFormat[]]

export const versionRequestSchema = z
  .object({
    format: z.enum(formats),
    firstFrame: z.coerce.number().int(),
    lastFrame: z.coerce.number().int(),
  })
  .refine((request) => request.lastFrame >= request.firstFrame, {
    path: ['lastFrame'],
    message: 'The last frame must not come before the first.',
  })

/** Small enough to lose little with a worker, large enough that starting an encoder does not count. */
const CHUNK_FRAMES = 16

export const versionFolder = (context: ServerContext, versionId: string): string =>
  join(context.folders.versions, versionId)
export const chunkName = (index: number): string => `chunk-${String(index).padStart(5, '0')}`

export type MakeResult =
  | { readonly ok: true; readonly versionId: string }
  | { readonly ok: false; readonly field: 'format' | 'firstFrame' | 'lastFrame'; readonly message: string }

/** Makes a version of the mends as they are now and queues its chunks. @throws RangeError without a shot. */
export async function makeVersion(
  context: ServerContext,
  shotId: string,
  request: z.output<typeof versionRequestSchema>,
): Promise<MakeResult> {
  const { db } = context.database
  const found = await findShot(db, shotId)
  if (!found) throw new RangeError(`there is no shot ${shotId}`)
  const { shot, plate } = found
  const lastOfPlate = plate.firstFrame + plate.frameCount - 1
  for (const field of ['firstFrame', 'lastFrame'] as const) {
    if (request[field] < plate.firstFrame || request[field] > lastOfPlate) {
      return { ok: false, field, message: `The shot has frames ${plate.firstFrame} to ${lastOfPlate}.` }
    }
  }
  const refusal = refusalOf(request.format, plate.width, plate.height)
  if (refusal) return { ok: false, field: 'format', message: refusal }
  const versionId = randomUUID()
  return db.transaction(async (tx): Promise<MakeResult> => {
    const document = documentOf(shot, plate, await loadMends(tx, shotId), await loadTracks(tx, shotId))
    const [latest] = await tx
      .select({ number: max(versions.number) })
      .from(versions)
      .where(eq(versions.shotId, shotId))
    const { scene } = await loadScene(tx, shotId)
    const ofViews = await viewsForVersion(tx, shotId)
    const all = [document, ...ofViews.map((one) => one.document)]
    const words = all.map(whyNotRendered).find((one) => one !== null)
    if (words) return { ok: false, field: 'format', message: words }
    await tx.insert(versions).values({
      id: versionId,
      shotId,
      number: (latest?.number ?? 0) + 1,
      ...request,
      document,
      mendCount: all.flatMap(({ mends }) => mends).filter((mend) => mend.isOn).length,
      needsScene: needsScene(document),
      scene,
      views: ofViews,
      state: 'waiting',
    })
    for (
      let index = 0, first = request.firstFrame;
      first <= request.lastFrame;
      index++, first += CHUNK_FRAMES
    ) {
      const lastFrame = Math.min(first + CHUNK_FRAMES - 1, request.lastFrame)
      await tx.insert(renderChunks).values({ versionId, index, firstFrame: first, lastFrame })
      await enqueue(tx, 'render_chunk', { versionId, index }, `render:${versionId}:${index}`)
    }
    await announce(tx, { kind: 'version', id: versionId })
    return { ok: true, versionId }
  })
}

/** Why the mends of a document cannot be rendered, by the first that cannot; null where all can. */
function whyNotRendered(document: MendDocument): string | null {
  const checked = documentSchema.safeParse(upgradeDocument(document))
  if (checked.success) return null
  const [issue] = checked.error.issues
  const [part, at] = issue!.path
  const name = part === 'mends' && typeof at === 'number' ? document.mends[at]?.name : undefined
  return `${name ?? 'A mend'} cannot be rendered: ${issue!.message}. Nothing was made. Set that right, or delete it, first.` // prettier-ignore
}

export async function findVersion(context: ServerContext, versionId: string): Promise<Version | null> {
  const [row] = await context.database.db.select().from(versions).where(eq(versions.id, versionId))
  return row ?? null
}

/** Without the mends and the scene, which may be large. */
const { document: _document, scene: _scene, views: _views, ...SMALL_COLUMNS } = getTableColumns(versions)
const LISTED = { ...SMALL_COLUMNS, hasScene: sql<boolean>`${versions.scene} is not null` }
export type ListedVersion = Omit<Version, 'document' | 'scene' | 'views'> & { readonly hasScene: boolean }

/** What a version is doing; undefined where there is none. */
export async function stateOfVersion(db: Database, versionId: string): Promise<Version['state'] | undefined> {
  const [row] = await db.select({ state: versions.state }).from(versions).where(eq(versions.id, versionId))
  return row?.state
}

export async function listVersions(
  context: ServerContext,
  shotId: string,
): Promise<{ version: ListedVersion; chunks: RenderChunk[] }[]> {
  const { db } = context.database
  const rows = await db
    .select(LISTED)
    .from(versions)
    .where(eq(versions.shotId, shotId))
    .orderBy(desc(versions.number))
  if (rows.length === 0) return []
  const chunks = await db
    .select()
    .from(renderChunks)
    .where(
      inArray(
        renderChunks.versionId,
        rows.map((row) => row.id),
      ),
    )
    .orderBy(asc(renderChunks.index))
  return rows.map((version) => ({
    version,
    chunks: chunks.filter((chunk) => chunk.versionId === version.id),
  }))
}

/** Removes a folder that workers may still write into: out of their way first, as a folder being filled cannot be emptied. */
async function removeFolder(folder: string): Promise<void> {
  const leaving = `${folder}.leaving`
  try {
    await rename(folder, leaving)
  } catch (cause) {
    if ((cause as NodeJS.ErrnoException).code !== 'ENOENT') throw cause
  }
  await rm(leaving, { recursive: true, force: true })
}

/** Stops a version that is being made. Workers notice before their next frame. */
export async function cancelVersion(context: ServerContext, versionId: string): Promise<void> {
  const { db } = context.database
  const stopped = await db
    .update(versions)
    .set({ state: 'cancelled', finishedAt: new Date() })
    .where(and(eq(versions.id, versionId), inArray(versions.state, ['waiting', 'rendering', 'assembling'])))
    .returning({ id: versions.id })
  if (stopped.length === 0) return
  await removeFolder(versionFolder(context, versionId))
  await announce(db, { kind: 'version', id: versionId })
}

/** Whether what a version shows is gathered from other frames, so that it needs to know how the scene moves. */
const needsScene = ({ mends }: MendDocument): boolean =>
  mends.some((mend) => mend.isOn && findFill(mend.fill.methodId)?.steady?.gathers !== undefined)

/** Whether a scene's motion is being worked out for the first time. */
export const isOnItsWay = ({ state, scene }: SceneStatus): boolean =>
  scene === null && (state === 'waiting' || state === 'working')

/** Whether a version waits until the scene's motion has been worked out for the first time. */
export const awaitsScene = (
  { hasScene, needsScene }: Pick<ListedVersion, 'hasScene' | 'needsScene'>,
  status: SceneStatus,
): boolean => needsScene && !hasScene && isOnItsWay(status)

/** The scene's motion that a version is made with: that of when it was asked for, else the first one there is, the same for all its chunks. */
export async function sceneOfVersion(db: Database, version: Version): Promise<Scene | null | 'awaited'> {
  if (version.scene) return version.scene
  const status = await loadScene(db, version.shotId)
  if (awaitsScene({ ...version, hasScene: false }, status)) return 'awaited'
  if (!status.scene) return null
  await db
    .update(versions)
    .set({ scene: status.scene })
    .where(and(eq(versions.id, version.id), isNull(versions.scene)))
  const [now] = await db.select({ scene: versions.scene }).from(versions).where(eq(versions.id, version.id))
  return now?.scene ?? null
}

/**
 * The views of a version, each with its scene's motion: that of when it was asked for, else the first one there is, the same for all its
 * chunks.
 */
export async function viewsOfVersion(
  db: Database,
  version: Version,
): Promise<readonly VersionView[] | 'awaited'> {
  if (version.views.every(({ scene, document }) => scene || !needsScene(document))) return version.views
  const out: VersionView[] = []
  for (const one of version.views) {
    if (one.scene || !needsScene(one.document)) {
      out.push(one)
      continue
    }
    const status = await loadScene(db, one.shotId)
    if (isOnItsWay(status)) return 'awaited'
    out.push({ ...one, scene: status.scene })
  }
  // Whoever comes first says which: chunks are rendered side by side.
  await db.transaction(async (tx) => {
    const [now] = await tx
      .select({ views: versions.views })
      .from(versions)
      .where(eq(versions.id, version.id))
      .for('update')
    if (now?.views.every(({ scene, document }) => scene || !needsScene(document)))
      out.splice(0, out.length, ...now.views)
    else await tx.update(versions).set({ views: out }).where(eq(versions.id, version.id))
  })
  return out
}
