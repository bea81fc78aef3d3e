/**
 * The disk becomes full under an import, a render, the shelf of results and the database:
 *   node --import tsx tests/trust/fullDisk.ts        (as root)
 * Each must end in words, nothing that was acknowledged may be gone, and all goes on once there is room again.
 */
import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { rm } from 'node:fs/promises'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { asc, desc, eq, sql } from 'drizzle-orm'
import { contextOf, foldersIn } from '../../server/context.server'
import { openDatabase } from '../../server/db/client.server'
import { edits, imports, plates, versions } from '../../server/db/schema'
import { examine } from '../../server/house/doctor.server'
import { roomOn } from '../../server/room.server'
import { createDirectoryResultStore } from '../../server/results/resultStore.server'
import { Installation } from './installation'
import { SmallDisk } from './smallDisk'
import { hashOfFolder, paintFilm, Visitor } from './visitor'

/** What each of them said, and what was found amiss. */
export interface FullToll {
  readonly said: Readonly<Record<string, string>>
  readonly edits: { readonly acknowledged: number; readonly lost: number; readonly refusedWhileFull: number }
  readonly amiss: readonly string[]
}

const MEGABYTE = 2 ** 20
const FRAMES = 24
const PATIENCE_MS = 60_000

export async function fillDisk(port: number): Promise<FullToll> {
  const disk = new SmallDisk(1000)
  const installation = new Installation(disk.folder, port)
  const ballast = join(disk.folder, 'ballast')
  const amiss: string[] = []
  const said: Record<string, string> = {}
  const mustHold = (holds: boolean, words: string): void => void (holds || amiss.push(words))

  /** So much is left, and no more. */
  async function leave(megabytes: number): Promise<void> {
    await rm(ballast, { force: true })
    const { free } = await roomOn(disk.folder)
    execFileSync('fallocate', ['-l', String(free - Math.round(megabytes * MEGABYTE)), ballast])
  }

  try {
    await installation.start()
    const address = () => readFileSync(join(disk.folder, 'database-url'), 'utf8')
    const { db, pool } = openDatabase(address())
    const visitor = new Visitor(installation.url, paintFilm(FRAMES, '640x360'))
    /** What an import or a version has come to. */
    async function ended(
      table: typeof imports | typeof versions,
      id: string,
    ): Promise<{ state: string; error: string | null }> {
      // prettier-ignore
      for (const end = Date.now() + PATIENCE_MS; Date.now() < end; await sleep(50)) {
        const [row] = await db.select({ state: table.state, error: table.error }).from(table).where(eq(table.id, id)) // prettier-ignore
        if (row && ['done', 'failed', 'damaged'].includes(row.state)) return row
      }
      return { state: 'hanging', error: null }
    }
    async function makeVersion(shotId: string) {
      await visitor.makeVersion(shotId)
      const [{ id } = { id: '' }] = await db.select({ id: versions.id }).from(versions).orderBy(desc(versions.number)).limit(1) // prettier-ignore
      return ended(versions, id)
    }

    mustHold(
      (await ended(imports, (await visitor.bringIn())!)).state === 'done',
      'The first import is not done.',
    )
    const [plate] = await db.select().from(plates)
    const shotId = plate!.shotId
    const whole = hashOfFolder(join(foldersIn(disk.folder).frames, plate!.id))
    for (let i = 0; i < 5; i++) await visitor.mend(shotId)
    mustHold((await makeVersion(shotId)).state === 'done', 'The first version is not done.')

    // Room for the upload, not for its frames (16 MB).
    await leave(50 + 10)
    const brokenOff = await ended(imports, (await visitor.bringIn())!)
    said['import'] = brokenOff.error ?? ''
    mustHold(brokenOff.state === 'failed' && /^The disk is full/.test(said['import']), `An import without room is ${brokenOff.state}: ${said['import']}`) // prettier-ignore
    // No room for the upload either: told before a byte is sent.
    await leave(40)
    const refused = await visitor.post('/imports', { files: [{ name: 'film.mkv', sizeBytes: 5 * MEGABYTE }], frameRate: { num: 24, den: 1 } }) // prettier-ignore
    said['upload'] = refused?.text ?? ''
    mustHold(
      refused?.status === 507,
      `An upload without room is answered ${refused?.status}: ${refused?.text}`,
    )
    // Edits are still saved, and looked at.
    const before = visitor.acknowledged.length
    await visitor.mend(shotId)
    mustHold(
      visitor.acknowledged.length === before + 1,
      'An edit is not saved while there is room kept for it.',
    )
    const render = await makeVersion(shotId)
    said['render'] = render.error ?? ''
    mustHold(render.state === 'failed' && /^The disk is full/.test(said['render']), `A render without room is ${render.state}: ${said['render']}`) // prettier-ignore
    // What can be worked out again gives way, and nobody is stopped by it.
    const shelf = createDirectoryResultStore(foldersIn(disk.folder).results, plate!.id)
    await shelf.write('a'.repeat(32), new Uint8Array(1000))
    said['shelf'] = (await shelf.read('a'.repeat(32))) === null ? 'not kept' : 'kept'
    mustHold(said['shelf'] === 'not kept', 'The shelf takes room that is kept for the database.')

    // The database itself: its log is made to need new files until it has none.
    await leave(1)
    let refusedWhileFull = 0
    let isOver = false
    const trying = (async () => {
      while (!isOver) await visitor.mend(shotId, () => isOver)
    })()
    for (const end = Date.now() + 20_000; Date.now() < end && refusedWhileFull < 5; await sleep(200)) {
      await db.execute(sql`select pg_switch_wal()`).catch(() => refusedWhileFull++)
    }
    mustHold(refusedWhileFull > 0, 'The database was never without room.')
    await rm(ballast)
    await installation.untilWhole(PATIENCE_MS)
    const atReturn = visitor.acknowledged.length
    for (const end = Date.now() + PATIENCE_MS; Date.now() < end && visitor.acknowledged.length === atReturn;) await sleep(100) // prettier-ignore
    isOver = true
    await trying
    mustHold(visitor.acknowledged.length > atReturn, 'Edits are not saved again.')
    await pool.end()

    // Room is back: all goes on by itself.
    await shelf.write('a'.repeat(32), new Uint8Array(1000))
    mustHold((await shelf.read('a'.repeat(32)))?.length === 1000, 'The shelf keeps nothing with room either.')
    const again = openDatabase(address())
    const stored = (await again.db.select({ id: edits.editId }).from(edits).orderBy(asc(edits.revision))).map(({ id }) => id) // prettier-ignore
    const lost = visitor.acknowledged.filter((id) => !stored.includes(id)).length
    await again.pool.end()
    const { db: now, pool: last } = openDatabase(address())
    const id = (await visitor.bringIn())!
    for (const end = Date.now() + PATIENCE_MS; Date.now() < end; await sleep(50)) {
      const [row] = await now.select().from(imports).where(eq(imports.id, id))
      if (row?.state !== 'done') continue
      const [fresh] = await now.select().from(plates).where(eq(plates.shotId, row.shotId!))
      mustHold(hashOfFolder(join(foldersIn(disk.folder).frames, fresh!.id)) === whole, 'The import after it has other frames.') // prettier-ignore
      break
    }
    const context = contextOf({ db: now, pool: last }, disk.folder)
    const later = Date.now() + 120_000
    for (const fault of await examine(context, later)) if (/missing|cut/.test(fault.kind)) amiss.push(fault.words)
      else await fault.mend?.() // prettier-ignore
    for (const { words } of await examine(context, later)) amiss.push(`left: ${words}`)
    await last.end()
    return { said, edits: { acknowledged: visitor.acknowledged.length, lost, refusedWhileFull }, amiss }
  } finally {
    await installation.stop()
    disk.remove()
  }
}

if (process.argv[1] === import.meta.filename)
  process.stdout.write(`${JSON.stringify(await fillDisk(4800), null, 2)}\n`)
