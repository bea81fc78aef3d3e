/**
 * Edits, imports, renders and scans at once, while parts are killed at random moments:
 *   node --import tsx tests/trust/kills.ts [--rounds=200] [--seed=1]
 * Afterwards every edit that was acknowledged must be there once and in order, every import that was called done must
 * have all its frames, byte for byte, every version its whole file, and after the doctor nothing may be left over.
 */
import { execFileSync } from 'node:child_process'
import { createHash, randomUUID } from 'node:crypto'
import { readdirSync, readFileSync } from 'node:fs'
import { chmod, mkdtemp, readFile, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { asc, eq, inArray, notInArray } from 'drizzle-orm'
import { contextOf } from '../../server/context.server'
import { openDatabase } from '../../server/db/client.server'
import { edits, imports, plates, surveys, versions } from '../../server/db/schema'
import { examine } from '../../server/house/doctor.server'
import { createRandom } from '../random'
import { sampleMend } from '../fixtures/sampleMend'
import { unzip } from '../unzip'
import { Installation } from './installation'

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
const SETTLE_MS = 240_000

/** @param seed  Chooses who is killed when. */
export async function killWhileWorking(rounds: number, seed: number, port: number): Promise<Toll> {
  const random = createRandom(seed)
  const dataDir = await mkdtemp('/var/tmp/fillagrant-kills-')
  await chmod(dataDir, 0o755) // the database runs as another user
  const film = join(dataDir, 'film.mkv')
  execFileSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', 'testsrc2=size=320x180:rate=24', '-frames:v', String(FRAMES), '-c:v', 'ffv1', film]) // prettier-ignore
  const footage = await readFile(film)
  const installation = new Installation(dataDir, port)
  const killed: Record<string, number> = {}
  const acknowledged: string[] = []
  let revision = 0
  let isOver = false

  /** null where there was no whole answer: nothing is acknowledged then. */
  async function post(path: string, body: unknown, type = 'application/json') {
    try {
      const response = await fetch(installation.url + path, {
        method: 'POST',
        headers: { Origin: installation.url, 'Content-Type': type },
        body: body instanceof Uint8Array ? new Uint8Array(body) : typeof body === 'string' ? body : JSON.stringify(body), // prettier-ignore
        signal: AbortSignal.timeout(20_000),
      })
      return { ok: response.ok, status: response.status, text: await response.text() }
    } catch {
      return null
    }
  }

  async function bringIn(): Promise<string | null> {
    const answer = await post('/imports', { files: [{ name: 'film.mkv', sizeBytes: footage.length }], frameRate: { num: 24, den: 1 } }) // prettier-ignore
    if (!answer?.ok) return null
    const { importId } = JSON.parse(answer.text) as { importId: string }
    if (!(await post(`/imports/${importId}/files/0`, footage, 'application/octet-stream'))?.ok) return null
    return (await post(`/imports/${importId}`, {}))?.ok ? importId : null
  }

  /** As the page does it: under one id until it is acknowledged, then the next. */
  async function edit(shotId: string): Promise<void> {
    while (!isOver) {
      const editId = randomUUID()
      const mend = { ...sampleMend({ id: randomUUID() }), stackIndex: 0 }
      const body = { editId, role: 'do', targetId: null, edit: { label: 'Add', changes: [{ id: mend.id, before: null, after: mend }], tracks: [] } } // prettier-ignore
      for (let isStored = false; !isStored && !isOver;) {
        const answer = await post(`/shots/${shotId}/edits`, { ...body, baseRevision: revision })
        if (answer?.ok) {
          revision = (JSON.parse(answer.text) as { revision: number }).revision
          acknowledged.push(editId)
          isStored = true
        } else if (answer && answer.status < 500 && answer.status !== 409)
          throw new Error(`An edit was refused: ${answer.text}`) // prettier-ignore
        else await sleep(100)
      }
      await sleep(50 + 200 * random())
    }
  }

  /** One after the other, as often as there is a server. */
  async function keepBusy(work: () => Promise<unknown>, pauseMs: number): Promise<void> {
    while (!isOver) {
      await work()
      await sleep(pauseMs * (0.5 + random()))
    }
  }

  async function kill(victim: (typeof VICTIMS)[number]): Promise<void> {
    killed[victim] = (killed[victim] ?? 0) + 1
    if (victim === 'media') {
      for (const pid of mediaToolsOn(dataDir)) process.kill(pid, 'SIGKILL')
      return
    }
    installation.kill(victim)
    if (victim === 'supervisor') {
      await sleep(300)
      await installation.start(60_000)
    }
  }

  try {
    await installation.start()
    const { db, pool } = openDatabase(readFileSync(join(dataDir, 'database-url'), 'utf8'))
    await bringIn()
    let shotId: string | undefined
    while (!shotId) {
      shotId = (await db.select({ id: plates.shotId }).from(plates))[0]?.id
      await sleep(100)
    }
    await pool.end() // its address changes with the next start
    const form = new URLSearchParams({ intent: 'make', format: 'png', firstFrame: '1001', lastFrame: String(1000 + FRAMES) }).toString() // prettier-ignore
    const work = [
      edit(shotId),
      keepBusy(bringIn, 2500),
      keepBusy(() => post(`/shots/${shotId}/handover.data`, form, 'application/x-www-form-urlencoded'), 4000),
      keepBusy(() => post(`/shots/${shotId}/survey/state`, {}), 5000),
    ]
    for (let round = 0; round < rounds; round++) {
      await sleep(300 + 2500 * random())
      await kill(VICTIMS[Math.floor(random() * VICTIMS.length)]!)
      await installation.untilWhole(BACK_MS)
    }
    isOver = true
    await Promise.all(work)
    return { rounds, killed, ...(await countLosses(dataDir, shotId, acknowledged)) }
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
  const stored = (await db.select({ editId: edits.editId }).from(edits).where(eq(edits.shotId, shotId)).orderBy(asc(edits.revision))).map(({ editId }) => editId) // prettier-ignore
  const places = acknowledged.map((editId) => stored.indexOf(editId))
  const isInOrder = places.every((place, i) => i === 0 || place > places[i - 1]!)
  const done = await db.select().from(imports).where(eq(imports.state, 'done'))
  const kept = await db.select().from(plates)
  let tornImports = done.filter(({ shotId: made }) => !kept.some((plate) => plate.shotId === made)).length
  const whole = hashOfFrames(join(context.folders.frames, kept[0]!.id))
  for (const { id, frameCount } of kept) if (frameCount !== FRAMES || hashOfFrames(join(context.folders.frames, id)) !== whole) tornImports++ // prettier-ignore
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

/** Every import is of one film. */
function hashOfFrames(folder: string): string {
  const hash = createHash('sha256')
  for (const name of readdirSync(folder).sort()) hash.update(name).update(readFileSync(join(folder, name)))
  return hash.digest('hex')
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
  const given = (name: string, otherwise: number) => Number(process.argv.find((one) => one.startsWith(`--${name}=`))?.split('=')[1] ?? otherwise) // prettier-ignore
  process.stdout.write(`${JSON.stringify(await killWhileWorking(given('rounds', 200), given('seed', 1), given('port', 4600)))}\n`) // prettier-ignore
}
