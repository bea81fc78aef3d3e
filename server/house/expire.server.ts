/** What ends by itself: uploads that were broken off, what has lain in the bin long enough. */
import { rm } from 'node:fs/promises'
import { dirname } from 'node:path'
import { and, inArray, lt, sql } from 'drizzle-orm'
import type { ServerContext } from '../context.server'
import { imports } from '../db/schema'
import { announce } from '../events.server'
import { uploadFolder } from '../imports.server'
import { log } from '../log.server'
import { roomWarning } from '../room.server'
import { emptyBesideBin } from './beside.server'
import { emptyBin } from './house.server'

/** Files that have not all arrived after so long never will; damaged footage waits no longer for a word. */
const BROKEN_OFF_DAYS = 2
const EVERY_MS = 3_600_000

export async function expireImports(context: ServerContext): Promise<void> {
  const { db } = context.database
  const gone = await db
    .update(imports)
    .set({
      state: 'failed',
      error: `It was broken off, and is given up after ${BROKEN_OFF_DAYS} days. Drop it again.`,
    })
    .where(
      and(
        inArray(imports.state, ['uploading', 'damaged']),
        lt(imports.createdAt, sql`now() - make_interval(days => ${BROKEN_OFF_DAYS})`),
      ),
    ) // prettier-ignore
    .returning({ id: imports.id })
  for (const { id } of gone) {
    await rm(uploadFolder(context, id), { recursive: true, force: true })
    await announce(db, { kind: 'import', id })
  }
}

async function warnOfRoom({ folders }: ServerContext): Promise<void> {
  const words = await roomWarning(dirname(folders.uploads))
  if (words) log.warn(words)
}

/** Looks now, and every hour. @returns How to stop. */
export function keepExpiring(context: ServerContext): () => void {
  const look = () => {
    Promise.all([expireImports(context), emptyBin(context), emptyBesideBin(context), warnOfRoom(context)]).catch((cause: unknown) => log.warn({ err: cause }, 'what has expired could not be cleared away; it is tried again')) // prettier-ignore
  }
  look()
  const timer = setInterval(look, EVERY_MS)
  return () => clearInterval(timer)
}
