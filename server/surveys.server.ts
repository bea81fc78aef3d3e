/** Surveys of shots in the database: asked for, called off, looked at; finds dismissed. */
import { mkdir, readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { and, eq, inArray } from 'drizzle-orm'
import sharp from 'sharp'
import { z } from 'zod'
import type { Find, Survey } from '../core/survey/finds'
import { SURVEY_FORMAT, SURVEY_VERSION } from '../core/survey/finds'
import type { SurveyStatus } from '../core/jobs/survey'
import type { Database, Transaction } from './db/client.server'
import { finds, surveys } from './db/schema'
import { putInPlace } from './durable.server'
import { announce } from './events.server'
import { enqueue } from './jobs/queue.server'
import { findShot, type Plate } from './shots.server'

/** Somebody waits for it. */
const ORDER = { priority: 2 } as const

/** Has workers look through the shot. Asked twice, it is done once. @returns Whether there is such a shot. */
export async function askForSurvey(db: Database, shotId: string): Promise<boolean> {
  return db.transaction(async (tx) => {
    const found = await findShot(tx, shotId)
    if (!found) return false
    const now = {
      state: 'waiting',
      framesDone: 0,
      framesTotal: found.plate.frameCount,
      startedAt: null,
      error: null,
    } as const
    await tx
      .insert(surveys)
      .values({ shotId, ...now })
      .onConflictDoUpdate({ target: surveys.shotId, set: now })
    await enqueue(tx, 'survey_plate', { shotId }, `survey:${shotId}`, ORDER)
    await announce(tx, { kind: 'survey', id: shotId })
    return true
  })
}

/** Calls it off. What the last one found stays. */
export async function cancelSurvey(db: Database, shotId: string): Promise<void> {
  await db
    .update(surveys)
    .set({ state: 'cancelled' })
    .where(and(eq(surveys.shotId, shotId), inArray(surveys.state, ['waiting', 'working'])))
  await announce(db, { kind: 'survey', id: shotId })
}

export async function loadSurvey(
  db: Database | Transaction,
  shotId: string,
  nowMs = Date.now(),
): Promise<SurveyStatus> {
  const [row] = await db.select().from(surveys).where(eq(surveys.shotId, shotId))
  const rows = await db
    .select()
    .from(finds)
    .where(and(eq(finds.shotId, shotId), eq(finds.isCurrent, true)))
  const listed = rows
    .map(({ find, isDismissed }) => ({ find, isDismissed }))
    .sort((a, b) => b.find.sure - a.find.sure || a.find.y - b.find.y || a.find.x - b.find.x)
  if (!row)
    return {
      state: 'none',
      framesDone: 0,
      framesTotal: 0,
      seconds: null,
      error: null,
      about: null,
      finds: listed,
    }
  const { state, framesDone, framesTotal, startedAt, error, about } = row
  return {
    state,
    framesDone,
    framesTotal,
    seconds: startedAt && (nowMs - startedAt.getTime()) / 1000,
    error,
    about,
    finds: listed,
  }
}

/** Puts what a survey has found in place of what the last one found; what was dismissed stays dismissed. */
export async function keepFinds(
  tx: Database | Transaction,
  shotId: string,
  found: readonly Find[],
): Promise<void> {
  await tx.update(finds).set({ isCurrent: false }).where(eq(finds.shotId, shotId))
  await tx.delete(finds).where(and(eq(finds.shotId, shotId), eq(finds.isDismissed, false)))
  for (const find of found) {
    await tx
      .insert(finds)
      .values({ shotId, id: find.id, find })
      .onConflictDoUpdate({ target: [finds.shotId, finds.id], set: { find, isCurrent: true } })
  }
}

export const dismissalSchema = z.strictObject({
  ids: z.array(z.string().max(64)).min(1).max(5000),
  isDismissed: z.boolean(),
})

/** Dismisses finds, or takes that back. */
export async function dismissFinds(
  db: Database,
  shotId: string,
  { ids, isDismissed }: z.output<typeof dismissalSchema>,
): Promise<void> {
  await db
    .update(finds)
    .set({ isDismissed })
    .where(and(eq(finds.shotId, shotId), inArray(finds.id, ids)))
  await announce(db, { kind: 'survey', id: shotId })
}

/** The last survey as the file that the command line writes too; dismissed finds left out. Null before any. */
export function surveyFile(plate: Plate, { about, finds: listed }: SurveyStatus): Survey | null {
  if (!about) return null
  return {
    format: SURVEY_FORMAT,
    version: SURVEY_VERSION,
    plate: {
      width: plate.width,
      height: plate.height,
      firstFrame: plate.firstFrame,
      frameCount: plate.frameCount,
    },
    rest: about.rest,
    cuts: about.cuts,
    flashes: about.flashes,
    flickerStops: about.flickerStops,
    finds: listed.filter(({ isDismissed }) => !isDismissed).map(({ find }) => find),
  }
}

export const lookSchema = z.enum(['mean', 'spread'])
export type ClipLook = z.output<typeof lookSchema>

const lookPath = (folder: string, plateId: string, look: ClipLook): string =>
  join(folder, `${plateId}.${look}.png`)

/** Keeps a picture of the whole clip, 8-bit RGBA. */
export async function writeLook(
  folder: string,
  plate: Plate,
  look: ClipLook,
  rgba: Uint8ClampedArray,
): Promise<void> {
  await mkdir(folder, { recursive: true })
  const path = lookPath(folder, plate.id, look)
  const { width, height } = plate
  await sharp(Buffer.from(rgba.buffer, rgba.byteOffset, rgba.byteLength), {
    raw: { width, height, channels: 4 },
  })
    .removeAlpha()
    .png({ compressionLevel: 3 })
    .toFile(`${path}.partial`)
  await putInPlace(`${path}.partial`, path)
}

/** Null where there was no survey yet. @throws Error when it is there and cannot be read. */
export async function readLook(folder: string, plateId: string, look: ClipLook): Promise<Buffer | null> {
  return readFile(lookPath(folder, plateId, look)).catch((cause: NodeJS.ErrnoException) => {
    if (cause.code === 'ENOENT') return null
    throw cause
  })
}
