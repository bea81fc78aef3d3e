import { rm } from 'node:fs/promises'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import type { ServerContext } from '../context.server'
import { imports } from '../db/schema'
import { announce } from '../events.server'
import { isCancelled, uploadFolder, type Import } from '../imports.server'
import { log } from '../log.server'
import { storedNameOf } from '../media/importPlan.server'
import { DamageError } from '../media/damage.server'
import { MediaError } from '../media/mediaError'
import { probeMedia, type MediaInput } from '../media/probe.server'
import { requireAlike } from '../media/sequence.server'
import type { JobPayload } from './queue.server'
import { storePlate } from './storePlate.server'

const NEWS_EVERY_MS = 300

/** Decodes an upload and makes its shot. Run again after a lost worker, it begins anew. */
export async function importPlate(
  context: ServerContext,
  { importId }: JobPayload<'import_plate'>,
  signal: AbortSignal,
): Promise<void> {
  const { db } = context.database
  const [row] = await db.select().from(imports).where(eq(imports.id, importId))
  if (!row || (row.state !== 'waiting' && row.state !== 'decoding')) return
  await db
    .update(imports)
    .set({ state: 'decoding', startedAt: new Date(), framesDone: 0 })
    .where(eq(imports.id, importId))

  const stop = new AbortController()
  signal.addEventListener('abort', () => stop.abort())
  let lastNews = 0
  try {
    const input = inputOf(context, row)
    const shape = await probeMedia(input, stop.signal)
    const { plan } = row
    if (plan.kind === 'sequence' && input.kind === 'sequence') {
      await requireAlike(
        input.pattern,
        input.startNumber,
        plan.files.map((file) => file.name),
        shape,
        stop.signal,
      )
    }
    const expectedFrames =
      plan.kind === 'sequence' ? { count: plan.files.length, isExact: true } : shape.expectedFrames
    await db
      .update(imports)
      .set({ framesTotal: expectedFrames?.count ?? null })
      .where(eq(imports.id, importId))
    await storePlate(
      context,
      {
        owner: importId,
        productionId: row.productionId,
        name: row.name,
        title: '',
        sourceName: input.shownName,
        firstFrame: plan.firstFrame,
        input,
        shape: { ...shape, expectedFrames },
        takesDamaged: row.takesDamaged,
      },
      async (framesDone) => {
        if (Date.now() - lastNews < NEWS_EVERY_MS) return
        lastNews = Date.now()
        if (await isCancelled(context, importId)) stop.abort()
        await db.update(imports).set({ framesDone }).where(eq(imports.id, importId))
        await announce(db, { kind: 'import', id: importId })
      },
      async (tx, shotId) => {
        const [claimed] = await tx
          .select({ state: imports.state })
          .from(imports)
          .where(eq(imports.id, importId))
          .for('update')
        if (claimed?.state !== 'decoding') throw new MediaError('stopped', 'Stopped.')
        await tx.update(imports).set({ state: 'done', shotId }).where(eq(imports.id, importId))
        await announce(tx, { kind: 'import', id: importId })
      },
      stop.signal,
    )
    await rm(uploadFolder(context, importId), { recursive: true, force: true })
  } catch (cause) {
    if (signal.aborted) throw cause // this worker is going away: another begins anew
    if (!(cause instanceof MediaError)) throw cause
    if (cause instanceof DamageError && cause.isTakeable) {
      // What was sent stays until the user has chosen.
      await db.update(imports).set({ state: 'damaged', error: cause.message }).where(eq(imports.id, importId))
      await announce(db, { kind: 'import', id: importId })
      return
    }
    if (cause.code !== 'stopped') {
      log.info({ importId, code: cause.code }, 'footage was refused')
      await db.update(imports).set({ state: 'failed', error: cause.message }).where(eq(imports.id, importId))
    }
    await rm(uploadFolder(context, importId), { recursive: true, force: true })
    await announce(db, { kind: 'import', id: importId })
  }
}

function inputOf(context: ServerContext, { id, plan }: Import): MediaInput {
  const folder = uploadFolder(context, id)
  if (plan.kind === 'video')
    return { kind: 'video', path: join(folder, storedNameOf(plan, 0)), shownName: plan.file.name }
  return {
    kind: 'sequence',
    pattern: join(folder, `%07d.${plan.ending}`),
    startNumber: 0,
    frameRate: plan.frameRate,
    shownName: plan.files[0]!.name,
    shownNames: plan.files.map(({ name }) => name),
  }
}
