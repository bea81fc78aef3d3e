/**
 * Edits, imports, renders and scans at once, while parts are killed at random moments:
 *   node --import tsx tests/trust/kills.ts [--rounds=200] [--seed=1]
 * Afterwards every edit that was acknowledged must be there once and in order, every import that was called done must
 * have all its frames, byte for byte, every version its whole file, and after the doctor nothing may be left over.
 */
import { readdirSync, readFileSync } from 'node:fs'
import { chmod, mkdtemp, readFile, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { asc, eq, inArray, notInArray, sql } from 'drizzle-orm'
import { contextOf } from '../../server/context.server'
import { openDatabase } from '../../server/db/client.server'
import { edits, imports, plates, surveys, versions } from '../../server/db/schema'
import { examine } from '../../server/house/doctor.server'
import { createRandom } from '../random'
import { unzip } from '../unzip'
import { Installation } from './installation'
import { numberGiven } from './numberGiven'
import { hashOfFolder, paintFilm, Visitor } from './visitor'

export interface Toll {
  readonly rounds: number
  readonly killed: Readonly<Record<string, number>>
  readonly acknowledgedEdits: number
  readonly lostEdits: number
  readonly doubledEdits: number
  readonly importsDone: number
  readonly tornImports: number
  readonly versionsDone: number
  readonly tornVersions: number
  /** What never came to an end, good or bad. */
  readonly hanging: number
  readonly leftAfterDoctor: number
}

const VICTIMS = ['web', 'worker', 'database', 'media', 'supervisor'] as const
const FRAMES = 12
const BACK_MS = 30_000
/** So long a media tool is waited for. */
const MEDIA_MS = 10_000
const SETTLE_MS = 300_000

/** @param seed  Chooses who is killed when. */
export async function killWhileWorking(rounds: number, seed: number, port: number): Promise<Toll> {
  const random = createRandom(seed)
  // Work goes on in its own time: who is killed when depends on the seed alone.
  const pause = createRandom(seed + 1)
  const dataDir = await mkdtemp('/var/tmp/fillagrant-kills-')
  await chmod(dataDir, 0o755) // the database runs as another user
  const installation = new Installation(dataDir, port)
  const killed: Record<string, number> = {}
  let isOver = false
  const visitor = new Visitor(installation.url, paintFilm(FRAMES))

  /** One after the other, as often as there is a server. */
  async function keepBusy(work: () => Promise<unknown>, pauseMs: number): Promise<void> {
    while (!isOver) {
      await work()
      await sleep(pauseMs * (0.5 + pause()))
    }
  }

  async function kill(victim: (typeof VICTIMS)[number]): Promise<void> {
    if (victim === 'media') {
      // They come and go: the next ones that are seen.
      const end = Date.now() + MEDIA_MS
      while (mediaToolsOn(dataDir).filter(endNow).length === 0) {
        if (Date.now() > end) return
        await sleep(5)
      }
    } else installation.kill(victim)
    killed[victim] = (killed[victim] ?? 0) + 1
    if (victim === 'supervisor') {
      await sleep(300)
      await installation.start(60_000)
    }
  }

  try {
    await installation.start()
    const { db, pool } = openDatabase(readFileSync(join(dataDir, 'database-url'), 'utf8'))
    await visitor.bringIn()
    let shotId: string | undefined
    while (!shotId) {
      shotId = (await db.select({ id: plates.shotId }).from(plates))[0]?.id
      await sleep(100)
    }
    await pool.end() // its address changes with the next start
    const shot = shotId
    const work = [
      keepBusy(() => visitor.mend(shot, () => isOver), 150),
      keepBusy(() => visitor.bringIn(), 4000),
      keepBusy(() => visitor.makeVersion(shot), 8000),
      keepBusy(() => visitor.scan(shot), 15_000),
    ]
    for (let round = 0; round < rounds; round++) {
      await sleep(300 + 2500 * random())
      await kill(VICTIMS[Math.floor(random() * VICTIMS.length)]!)
      await installation.untilWhole(BACK_MS)
    }
    isOver = true
    await Promise.all(work)
    return { rounds, killed, ...(await countLosses(dataDir, shotId, visitor.acknowledged)) }
  } finally {
    isOver = true
    await installation.stop()
    await rm(dataDir, { recursive: true, force: true })
  }
}

async function countLosses(
  dataDir: string,
  shotId: string,
  acknowledged: readonly string[],
): Promise<Omit<Toll, 'rounds' | 'killed'>> {
  const client = openDatabase(readFileSync(join(dataDir, 'database-url'), 'utf8'))
  const { db } = client
  const context = contextOf(client, dataDir)
  let hanging = Infinity
  for (const end = Date.now() + SETTLE_MS; hanging > 0 && Date.now() < end; await sleep(500)) {
    const open = await db.select({ state: imports.state }).from(imports).where(notInArray(imports.state, ['done', 'failed', 'cancelled', 'uploading'])) // prettier-ignore
    const made = await db.select({ state: versions.state }).from(versions).where(notInArray(versions.state, ['done', 'failed', 'cancelled'])) // prettier-ignore
    const scanned = await db.select({ state: surveys.state }).from(surveys).where(inArray(surveys.state, ['waiting', 'working'])) // prettier-ignore
    hanging = open.length + made.length + scanned.length
  }
  if (hanging > 0) {
    const jobs = await db.execute(
      sql`select id, task_identifier, key, attempts, max_attempts, locked_by, locked_at, run_at, last_error from graphile_worker.jobs`,
    )
    const open = await db.execute(sql`select 'import' as what, id::text, state from imports where state not in ('done', 'failed', 'cancelled', 'uploading') union all select 'version', id::text, state from versions where state not in ('done', 'failed', 'cancelled') union all select 'survey', shot_id, state from surveys where state in ('waiting', 'working')`) // prettier-ignore
    process.stderr.write(`hanging: ${JSON.stringify({ open: open.rows, jobs: jobs.rows }, null, 1)}\n`)
  }
  const stored = (await db.select({ editId: edits.editId }).from(edits).where(eq(edits.shotId, shotId)).orderBy(asc(edits.revision))).map(({ editId }) => editId) // prettier-ignore
  const places = acknowledged.map((editId) => stored.indexOf(editId))
  const isInOrder = places.every((place, i) => i === 0 || place > places[i - 1]!)
  const done = await db.select().from(imports).where(eq(imports.state, 'done'))
  const kept = await db.select().from(plates)
  let tornImports = done.filter(({ shotId: made }) => !kept.some((plate) => plate.shotId === made)).length
  const whole = hashOfFolder(join(context.folders.frames, kept[0]!.id))
  for (const { id, frameCount } of kept) if (frameCount !== FRAMES || hashOfFolder(join(context.folders.frames, id)) !== whole) tornImports++ // prettier-ignore
  const made = await db.select().from(versions).where(eq(versions.state, 'done'))
  let tornVersions = 0
  for (const { id, fileName, sizeBytes } of made) {
    const path = join(context.folders.versions, id, fileName!)
    if ((await stat(path).catch(() => null))?.size !== sizeBytes || (await unzip(await readFile(path))).size !== FRAMES) tornVersions++ // prettier-ignore
  }
  const later = Date.now() + 120_000
  await db.update(imports).set({ state: 'failed' }).where(eq(imports.state, 'uploading')) // whoever sent them has given up
  for (const fault of await examine(context, later)) await fault.mend?.()
  const left = await examine(context, later)
  for (const { words } of left) process.stderr.write(`left: ${words}\n`)
  await client.pool.end()
  return {
    acknowledgedEdits: acknowledged.length,
    lostEdits: places.filter((place) => place < 0).length + (isInOrder ? 0 : 1),
    doubledEdits: stored.length - new Set(stored).size,
    importsDone: done.length,
    tornImports,
    versionsDone: made.length,
    tornVersions,
    hanging,
    leftAfterDoctor: left.length,
  }
}

/** @returns Whether it had not ended already. */
function endNow(pid: number): boolean {
  try {
    return process.kill(pid, 'SIGKILL')
  } catch {
    return false
  }
}

/** Media tools that read or write below a folder. */
function mediaToolsOn(dataDir: string): number[] {
  return readdirSync('/proc')
    .map(Number)
    .filter((pid) => {
      try {
        const words = readFileSync(`/proc/${pid}/cmdline`, 'utf8')
        return Number.isInteger(pid) && /^(\S*\/)?ff(mpeg|probe)\0/.test(words) && words.includes(dataDir)
      } catch {
        return false // ended meanwhile
      }
    })
}

if (process.argv[1] === import.meta.filename) {
  process.stdout.write(`${JSON.stringify(await killWhileWorking(numberGiven('rounds', 200), numberGiven('seed', 1), numberGiven('port', 4600)))}\n`) // prettier-ignore
}
