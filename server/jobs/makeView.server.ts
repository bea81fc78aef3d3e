/** From an all-round shot and a view to a shot of what that view sees. Nothing half. */
import { randomUUID } from 'node:crypto'
import { eq } from 'drizzle-orm'
import type { BitDepth, Samples } from '../../core/image/samples'
import { sizeOfView } from '../../core/sphere/straightView'
import type { Frame } from '../../core/time'
import type { ComputePool } from '../../workers/pool'
import type { ServerContext } from '../context.server'
import { views } from '../db/schema'
import { announce } from '../events.server'
import { plateReference } from '../plateFrames.server'
import { findShot } from '../shots.server'
import type { JobPayload } from './queue.server'
import { addShot } from './storePlate.server'

const NEWS_EVERY_MS = 300
/** Frames begun beyond those that all cores work on. */
const FRAMES_IN_HAND = 1

/** Run again after a lost worker, it begins anew. */
export async function makeView(
  context: ServerContext,
  pool: ComputePool,
  { viewId }: JobPayload<'make_view'>,
  signal: AbortSignal,
): Promise<void> {
  const { database: { db }, frames } = context // prettier-ignore
  const here = eq(views.id, viewId)
  const [row] = await db.select().from(views).where(here)
  const found = row && (await findShot(db, row.shotId))
  if (!row || !found || row.state === 'done') return // removed meanwhile, or made
  const { shot, plate } = found
  const side = sizeOfView(row.view, plate)
  const reference = plateReference(context, plate)
  const begun = Date.now()
  await db
    .update(views)
    .set({ state: 'working', framesDone: 0, startedAt: new Date(begun), error: null })
    .where(here)
  await announce(db, { kind: 'view', id: row.shotId })
  const begin = (frame: Frame): Promise<Samples> => {
    const made = pool
      .run({ kind: 'straighten', plate: reference, frame, view: row.view, side }, { signal })
      .then(({ straight }) => straight)
    made.catch(() => undefined) // awaited in its turn; a failure before that must not end the process
    return made
  }
  const plateId = randomUUID()
  await frames.sweep(viewId) // begun by a worker that is gone
  const writer = await frames.createWriter(plateId, viewId)
  const last = plate.firstFrame + plate.frameCount - 1
  let lastNews = 0
  try {
    const ahead: Promise<Samples>[] = []
    let next = plate.firstFrame
    for (let frame = plate.firstFrame; frame <= last; frame++) {
      while (next <= last && ahead.length < pool.size + FRAMES_IN_HAND) ahead.push(begin(next++))
      await writer.write(frame, await ahead.shift()!)
      if (Date.now() - lastNews < NEWS_EVERY_MS) continue
      lastNews = Date.now()
      const framesDone = frame - plate.firstFrame + 1
      await db.update(views).set({ framesDone }).where(here)
      const step = {
        part: viewId,
        done: framesDone,
        total: plate.frameCount,
        seconds: (Date.now() - begun) / 1000,
      }
      await announce(db, { kind: 'view', id: row.shotId, step })
    }
    await writer.commit()
  } catch (cause) {
    await writer.discard()
    throw cause
  }
  try {
    await db.transaction(async (tx) => {
      const madeShotId = await addShot(tx, plateId, {
        productionId: shot.productionId,
        name: `${shot.name} ${row.name}`,
        title: `${row.name} view of ${shot.name}`,
        sourceName: plate.sourceName,
        width: side,
        height: side,
        channels: plate.channels as 3 | 4,
        bitDepth: plate.bitDepth as BitDepth,
        frameRate: { num: plate.rateNum, den: plate.rateDen },
        firstFrame: plate.firstFrame,
        frameCount: plate.frameCount,
        sphere: null,
      })
      await tx.update(views).set({ state: 'done', framesDone: plate.frameCount, madeShotId }).where(here)
      await announce(tx, { kind: 'view', id: row.shotId })
    })
  } catch (cause) {
    await frames.remove(plateId)
    throw cause
  }
}

export async function failView(
  { database: { db } }: ServerContext,
  viewId: string,
  error: string,
): Promise<void> {
  const [row] = await db.update(views).set({ state: 'failed', error }).where(eq(views.id, viewId)).returning()
  if (row) await announce(db, { kind: 'view', id: row.shotId })
}
