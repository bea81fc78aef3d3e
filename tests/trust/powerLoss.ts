/**
 * The power fails right after something was called done:
 *   node --import tsx tests/trust/powerLoss.ts [--rounds=50]        (as root)
 * Data folder and database lie on a disk of their own, which is photographed the moment an import or a version is done, or an
 * edit acknowledged. The photograph is opened elsewhere, with a database server that finds what a machine would find that
 * comes up again, and all that was ever called done is looked for.
 */
import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { eq } from 'drizzle-orm'
import { foldersIn } from '../../server/context.server'
import { openDatabase } from '../../server/db/client.server'
import { edits, imports, plates, versions } from '../../server/db/schema'
import { unzip } from '../unzip'
import { Installation } from './installation'
import { numberGiven } from './numberGiven'
import { SmallDisk } from './smallDisk'
import { hashOfFolder, paintFilm, Visitor } from './visitor'

export interface PowerToll {
  readonly rounds: Readonly<Record<'import' | 'version' | 'edit', number>>
  readonly lost: readonly string[]
}

const FRAMES = 12
const PATIENCE_MS = 60_000
const KINDS = ['import', 'version', 'edit'] as const

export async function failPower(rounds: number, port: number): Promise<PowerToll> {
  const disk = new SmallDisk(2000)
  const installation = new Installation(disk.folder, port)
  const count = { import: 0, version: 0, edit: 0 }
  const lost: string[] = []
  try {
    await installation.start()
    const visitor = new Visitor(installation.url, paintFilm(FRAMES))
    const { db, pool } = openDatabase(readFileSync(join(disk.folder, 'database-url'), 'utf8'))
    const importsDone: string[] = []
    const versionsDone: string[] = []

    async function bringIn(): Promise<string> {
      const id = await visitor.bringIn()
      for (const end = Date.now() + PATIENCE_MS; id && Date.now() < end; await sleep(3)) {
        const [row] = await db.select().from(imports).where(eq(imports.id, id))
        if (row?.state === 'done') return (importsDone.push(id), row.shotId!)
      }
      throw new Error('An import has come to no end.')
    }
    async function makeVersion(shotId: string): Promise<void> {
      const before = new Set((await db.select().from(versions)).map(({ id }) => id))
      await visitor.makeVersion(shotId)
      for (const end = Date.now() + PATIENCE_MS; Date.now() < end; await sleep(3)) {
        const made = (await db.select({ id: versions.id, state: versions.state }).from(versions)).find(({ id, state }) => state === 'done' && !before.has(id)) // prettier-ignore
        if (made) return void versionsDone.push(made.id)
      }
      throw new Error('A version has come to no end.')
    }

    const shotId = await bringIn()
    const whole = hashOfFolder(join(foldersIn(disk.folder).frames, (await db.select().from(plates))[0]!.id))
    for (let round = 0; round < rounds; round++) {
      const kind = KINDS[round % KINDS.length]!
      if (kind === 'import') await bringIn()
      else if (kind === 'version') await makeVersion(shotId)
      else await visitor.mend(shotId)
      const picture = disk.photograph()
      count[kind]++
      const promised = { importsDone: [...importsDone], versionsDone: [...versionsDone], edits: [...visitor.acknowledged], whole } // prettier-ignore
      const missing = await disk.opened(picture, (folder) => missingIn(folder, port + 200, promised))
      lost.push(...missing.map((words) => `round ${round}, right after an ${kind}: ${words}`))
    }
    await pool.end()
    return { rounds: count, lost }
  } finally {
    await installation.stop()
    disk.remove()
  }
}

interface Promised {
  readonly importsDone: readonly string[]
  readonly versionsDone: readonly string[]
  readonly edits: readonly string[]
  /** Of the frames of every plate. */
  readonly whole: string
}

/** What was promised and is not in a data folder that was opened after the power had failed. */
async function missingIn(folder: string, port: number, promised: Promised): Promise<string[]> {
  const shell = (script: string): string =>
    execFileSync('bash', ['-c', `set -e; ROOT=$PWD; . scripts/setup.sh; ${script}`, 'bash', join(folder, 'postgres'), String(port)], { encoding: 'utf8', stdio: ['ignore', 'pipe', 'inherit'] }) // prettier-ignore
  const address = shell('rm -f "$1/postmaster.pid" "$1/server.log"; pg_start "$1" "$2"').trim()
  const { db, pool } = openDatabase(address)
  const missing: string[] = []
  try {
    const folders = foldersIn(folder)
    const kept = await db.select().from(plates)
    for (const id of promised.importsDone) {
      const [row] = await db.select().from(imports).where(eq(imports.id, id))
      const plate = kept.find((one) => one.shotId === row?.shotId)
      if (row?.state !== 'done' || !plate) missing.push(`import ${id} is ${row?.state}`)
      else if (hashOfFolder(join(folders.frames, plate.id)) !== promised.whole) missing.push(`frames of import ${id}`) // prettier-ignore
    }
    for (const id of promised.versionsDone) {
      const [row] = await db.select().from(versions).where(eq(versions.id, id))
      const bytes = row?.fileName ? await readFile(join(folders.versions, id, row.fileName)).catch(() => null) : null // prettier-ignore
      if (row?.state !== 'done' || bytes?.length !== row.sizeBytes || (await unzip(bytes)).size !== FRAMES) missing.push(`version ${id} is ${row?.state}, ${bytes?.length} bytes`) // prettier-ignore
    }
    const stored = new Set((await db.select({ id: edits.editId }).from(edits)).map(({ id }) => id))
    for (const id of promised.edits) if (!stored.has(id)) missing.push(`edit ${id}`)
    return missing
  } finally {
    await pool.end()
    shell('pg_stop "$1"')
  }
}

if (process.argv[1] === import.meta.filename) {
  process.stdout.write(
    `${JSON.stringify(await failPower(numberGiven('rounds', 50), numberGiven('port', 4700)))}\n`,
  )
}
