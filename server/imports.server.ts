/** Bringing footage in: what was dropped, the files as they arrive, the job that decodes them. */
import { randomUUID } from 'node:crypto'
import { createWriteStream } from 'node:fs'
import { rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { Readable, Transform } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import type { ReadableStream as WebStream } from 'node:stream/web'
import { desc, eq, notInArray } from 'drizzle-orm'
import type { ServerContext } from './context.server'
import { imports, type ImportState } from './db/schema'
import { makeFolder, putInPlace } from './durable.server'
import { announce } from './events.server'
import { enqueue } from './jobs/queue.server'
import { DiskFullError, isDiskFull, requireRoom } from './room.server'
import { filesOf, planImport, storedNameOf, type Drop } from './media/importPlan.server'

export type Import = typeof imports.$inferSelect

/** Why a request about an import cannot be met. */
export class ImportError extends Error {
  override readonly name = 'ImportError'
  readonly status: number
  constructor(status: number, message: string) {
    super(message)
    this.status = status
  }
}

/** A full disk is told with the number for it (RFC 4918, 11.5). */
const asImportError = (cause: unknown): unknown =>
  isDiskFull(cause) ? new ImportError(507, new DiskFullError().message) : cause

export const uploadFolder = (context: ServerContext, importId: string): string =>
  join(context.folders.uploads, importId)

/** Opens an import for a drop. @throws ImportError in words when the drop is no footage. */
export async function openImport(context: ServerContext, productionId: string, drop: Drop): Promise<Import> {
  const result = planImport(drop)
  if (!result.ok) throw new ImportError(400, result.message)
  const id = randomUUID()
  await makeFolder(uploadFolder(context, id))
  await requireRoom(
    context.folders.uploads,
    filesOf(result.plan).reduce((sum, { sizeBytes }) => sum + sizeBytes, 0),
  ).catch(async (cause: unknown) => {
    await rm(uploadFolder(context, id), { recursive: true, force: true })
    throw asImportError(cause)
  })
  const [row] = await context.database.db
    .insert(imports)
    .values({ id, productionId, name: result.name, plan: result.plan, state: 'uploading' })
    .returning()
  await announce(context.database.db, { kind: 'import', id })
  return row!
}

/**
 * Takes one file of an import. It is written under a temporary name and renamed when it is complete,
 * so that sending it again after a break is harmless.
 */
export async function receiveFile(
  context: ServerContext,
  importId: string,
  index: number,
  body: WebStream,
): Promise<void> {
  const row = await requireImport(context, importId, 'uploading')
  const file = filesOf(row.plan)[index]
  if (!file) throw new ImportError(404, `This drop has no file number ${index}.`)
  const target = join(uploadFolder(context, importId), storedNameOf(row.plan, index))
  const partial = `${target}.${randomUUID()}.partial`
  let received = 0
  const limit = new Transform({
    transform(chunk: Buffer, _encoding, done) {
      received += chunk.length
      if (received > file.sizeBytes)
        done(new ImportError(413, `${file.name} is larger than announced. Drop it again.`))
      else done(null, chunk)
    },
  })
  try {
    await pipeline(Readable.fromWeb(body), limit, createWriteStream(partial))
    if (received < file.sizeBytes)
      throw new ImportError(
        400,
        `${file.name} broke off after ${received} of ${file.sizeBytes} bytes. Drop it again.`,
      )
    await putInPlace(partial, target)
  } catch (cause) {
    throw asImportError(cause)
  } finally {
    await rm(partial, { force: true })
  }
}

/** All files are here: decoding may begin. */
export async function finishUpload(context: ServerContext, importId: string): Promise<void> {
  const row = await requireImport(context, importId, 'uploading')
  const files = filesOf(row.plan)
  for (const [index, file] of files.entries()) {
    const found = await stat(join(uploadFolder(context, importId), storedNameOf(row.plan, index))).catch(
      () => null,
    )
    if (found?.size !== file.sizeBytes)
      throw new ImportError(409, `${file.name} has not arrived yet. Send it again.`)
  }
  await context.database.db.transaction(async (tx) => {
    await tx.update(imports).set({ state: 'waiting' }).where(eq(imports.id, importId))
    await enqueue(tx, 'import_plate', { importId }, `import:${importId}`)
    await announce(tx, { kind: 'import', id: importId })
  })
}

/** Damaged footage is taken in as it is, with what is damaged marked. */
export async function takeDamaged(context: ServerContext, importId: string): Promise<void> {
  await requireImport(context, importId, 'damaged')
  await context.database.db.transaction(async (tx) => {
    await tx.update(imports).set({ state: 'waiting', takesDamaged: true, error: null }).where(eq(imports.id, importId)) // prettier-ignore
    await enqueue(tx, 'import_plate', { importId }, `import:${importId}`)
    await announce(tx, { kind: 'import', id: importId })
  })
}

/** Stops an import, or takes a failed one off the page. What it had received is deleted. */
export async function cancelImport(context: ServerContext, importId: string): Promise<void> {
  const { db } = context.database
  await db.update(imports).set({ state: 'cancelled' }).where(eq(imports.id, importId))
  await rm(uploadFolder(context, importId), { recursive: true, force: true })
  await announce(db, { kind: 'import', id: importId })
}

/** Imports that are under way or have failed, latest first. */
export async function listOpenImports(context: ServerContext): Promise<Import[]> {
  const over: ImportState[] = ['done', 'cancelled']
  return context.database.db
    .select()
    .from(imports)
    .where(notInArray(imports.state, over))
    .orderBy(desc(imports.createdAt))
}

export async function isCancelled(context: ServerContext, importId: string): Promise<boolean> {
  const [row] = await context.database.db
    .select({ state: imports.state })
    .from(imports)
    .where(eq(imports.id, importId))
  return !row || row.state === 'cancelled'
}

async function requireImport(context: ServerContext, importId: string, state: ImportState): Promise<Import> {
  const [row] = await context.database.db.select().from(imports).where(eq(imports.id, importId))
  if (!row) throw new ImportError(404, 'This import is not known. Drop the footage again.')
  if (row.state !== state) throw new ImportError(409, `This import is ${row.state} already.`)
  return row
}
