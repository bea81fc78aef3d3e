/** A backup is taken while a render runs, and brought back on an empty machine by the commands that users have. */
import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { chmod, mkdtemp, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { asc, eq } from 'drizzle-orm'
import { foldersIn } from '../../server/context.server'
import { openDatabase } from '../../server/db/client.server'
import { edits, plates, renderChunks, versions } from '../../server/db/schema'
import { Installation } from './installation'
import { hashOfFolder, paintFilm, Visitor } from './visitor'

export interface BroughtBack {
  /** Frames that were rendered already, and all, when the backup was taken. */
  readonly framesDone: number
  readonly frames: number
  readonly isSameHistory: boolean
  readonly areSameFrames: boolean
  /** Rights of the folder of frames for anybody else. */
  readonly rightsOfOthers: number
  /** Of the version that was being made. */
  readonly told: string | null
  readonly madeAgain: string | undefined
}

/** So many, and so large, that a render is not over before the backup has begun. */
const FRAMES = 72
const PATIENCE_MS = 90_000

export async function backUpWhileRendering(port: number): Promise<BroughtBack> {
  const place = await mkdtemp('/var/tmp/fillagrant-backup-')
  await chmod(place, 0o755) // the database runs as another user
  const [here, there, backup] = [join(place, 'here'), join(place, 'there'), join(place, 'backup')]
  const one = new Installation(here, port)
  const other = new Installation(there, port + 1)
  const databaseOf = (folder: string) => openDatabase(readFileSync(join(folder, 'database-url'), 'utf8'))
  const command = (dataDir: string, ...words: readonly string[]) => {
    const env: NodeJS.ProcessEnv = { ...process.env, FILLAGRANT_DATA: dataDir }
    delete env['DATABASE_URL']
    execFileSync('npm', ['run', '-s', ...words], { env, stdio: ['ignore', 'ignore', 'pipe'] })
  }
  const until = async <T>(ask: () => Promise<T | undefined | false>): Promise<T> => {
    for (const end = Date.now() + PATIENCE_MS; Date.now() < end; await sleep(20)) {
      const found = await ask()
      if (found) return found
    }
    throw new Error('What was waited for has not come.')
  }
  try {
    await one.start()
    const { db, pool } = databaseOf(here)
    const visitor = new Visitor(one.url, paintFilm(FRAMES, '1280x720'))
    await visitor.bringIn()
    const plate = await until(async () => (await db.select().from(plates))[0])
    for (let i = 0; i < 3; i++) await visitor.mend(plate.shotId)
    await visitor.makeVersion(plate.shotId)
    const rendered = async () => (await db.select().from(renderChunks)).reduce((sum, { framesDone }) => sum + framesDone, 0) // prettier-ignore
    const framesDone = await until(rendered)
    command(here, 'backup', '--', backup)
    const history = await db.select().from(edits).where(eq(edits.shotId, plate.shotId)).orderBy(asc(edits.revision)) // prettier-ignore
    const rightsOfOthers = (await stat(foldersIn(here).frames)).mode & 0o077
    const frames = hashOfFolder(join(foldersIn(here).frames, plate.id))
    await pool.end()
    await one.stop()

    command(there, 'restore', '--', backup)
    await other.start()
    const { db: now, pool: last } = databaseOf(there)
    const same = await now.select().from(edits).where(eq(edits.shotId, plate.shotId)).orderBy(asc(edits.revision)) // prettier-ignore
    const [broken] = await now.select().from(versions)
    await new Visitor(other.url, { bytes: Buffer.alloc(0), frames: FRAMES }).makeVersion(plate.shotId)
    const again = await until(async () => (await now.select().from(versions)).find(({ id, state }) => id !== broken!.id && /done|failed/.test(state))) // prettier-ignore
    await last.end()
    return {
      framesDone,
      frames: FRAMES,
      isSameHistory: JSON.stringify(same) === JSON.stringify(history),
      areSameFrames: hashOfFolder(join(foldersIn(there).frames, plate.id)) === frames,
      rightsOfOthers,
      told: broken!.error,
      madeAgain: again.state,
    }
  } finally {
    await one.stop()
    await other.stop()
    await rm(place, { recursive: true, force: true })
  }
}
