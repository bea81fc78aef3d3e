/**
 * A backup is a folder: the database as PostgreSQL's own dump, every file that its rows name, and a list of their
 * digests. It is taken while everything runs: rows are read first, from one snapshot, and the files that they name
 * never change.
 */
import { execFile } from 'node:child_process'
import { createHash } from 'node:crypto'
import { createReadStream, existsSync, readdirSync } from 'node:fs'
import { copyFile, mkdir, readdir, readFile, rename, rm, writeFile } from 'node:fs/promises'
import { dirname, join, relative, resolve } from 'node:path'
import { pipeline } from 'node:stream/promises'
import { promisify } from 'node:util'
import { sql } from 'drizzle-orm'
import pg from 'pg'
import { z } from 'zod'
import { openDatabase } from '../db/client.server'
import { syncTree } from '../durable.server'

const run = promisify(execFile)

const listSchema = z.strictObject({
  format: z.literal('fillagrant-backup'),
  version: z.literal(1),
  takenAt: z.iso.datetime(),
  /** Of every file, by its path from the data folder. */
  sha256: z.record(z.string(), z.string()),
})
type BackupList = z.output<typeof listSchema>

/** Folders of the data folder whose files belong to rows. What is worked out is made again. */
const KEPT = ['frames', 'versions', 'mattes', 'marks', 'looks'] as const

export class BackupError extends Error {
  override readonly name = 'BackupError'
}

/** A program of PostgreSQL's, from where Debian keeps them. */
function postgresProgram(name: string): string {
  const root = '/usr/lib/postgresql'
  const versions = existsSync(root) ? readdirSync(root).sort((a, b) => Number(b) - Number(a)) : []
  return versions.map((version) => join(root, version, 'bin', name)).find(existsSync) ?? name
}

async function digestOf(path: string): Promise<string> {
  const hash = createHash('sha256')
  await pipeline(createReadStream(path), hash)
  return hash.digest('hex')
}

/** Files below a folder, as paths from `root`. */
async function filesBelow(root: string, folder: string): Promise<string[]> {
  const entries = await readdir(folder, { withFileTypes: true, recursive: true }).catch(() => [])
  return entries
    .filter((entry) => entry.isFile())
    .map((entry) => relative(root, join(entry.parentPath, entry.name)))
}

/**
 * @param target  Must not be there yet. @param say  Told how far it is.
 * @returns How many files. @throws BackupError in words; nothing is left then.
 */
export async function takeBackup(
  databaseUrl: string,
  dataDir: string,
  target: string,
  say: (words: string) => void,
): Promise<number> {
  if (existsSync(target)) throw new BackupError(`${target} is there already. Name a folder that is not.`)
  const partial = `${resolve(target)}.partial`
  await rm(partial, { recursive: true, force: true })
  await mkdir(join(partial, 'files'), { recursive: true, mode: 0o700 })
  const client = new pg.Client({ connectionString: databaseUrl })
  await client.connect()
  try {
    await client.query('begin isolation level repeatable read read only')
    const snapshot = (await client.query<{ id: string }>('select pg_export_snapshot() as id')).rows[0]!.id
    const named = await namedFolders(client)
    await run(postgresProgram('pg_dump'), ['--format=custom', `--snapshot=${snapshot}`, `--file=${join(partial, 'database.dump')}`, databaseUrl]) // prettier-ignore
    await client.query('commit')
    const sha256: Record<string, string> = {}
    for (const [done, path] of (await filesNamed(dataDir, named)).entries()) {
      const copy = join(partial, 'files', path)
      await mkdir(dirname(copy), { recursive: true })
      await copyFile(join(dataDir, path), copy)
      sha256[path] = await digestOf(copy)
      if (done % 100 === 0) say(`\r${done} files`)
    }
    const list: BackupList = {
      format: 'fillagrant-backup',
      version: 1,
      takenAt: new Date().toISOString(),
      sha256,
    }
    await writeFile(join(partial, 'backup.json'), JSON.stringify(list, null, 1))
    await syncTree(partial)
    await rename(partial, target)
    return Object.keys(sha256).length
  } catch (cause) {
    await rm(partial, { recursive: true, force: true })
    throw cause
  } finally {
    await client.end()
  }
}

interface NamedFolders {
  readonly plates: ReadonlySet<string>
  /** The finished file of each version. */
  readonly versions: ReadonlyMap<string, string>
}

async function namedFolders(client: pg.Client): Promise<NamedFolders> {
  const ofPlates = await client.query<{ id: string }>('select id from plates')
  const ofVersions = await client.query<{ id: string; file_name: string }>(`select id, file_name from versions where state = 'done' and file_name is not null`) // prettier-ignore
  return {
    plates: new Set(ofPlates.rows.map(({ id }) => id)),
    versions: new Map(ofVersions.rows.map(({ id, file_name }) => [id, file_name])),
  }
}

/** Frames of plates that the snapshot has not got are of later imports; stills lie among them and are taken along. */
async function filesNamed(dataDir: string, named: NamedFolders): Promise<string[]> {
  const files: string[] = []
  for (const part of KEPT) {
    for (const path of await filesBelow(dataDir, join(dataDir, part))) {
      const [, id, name] = path.split('/')
      if (path.includes('.partial') || path.includes('.incoming')) continue
      if (part === 'versions' && named.versions.get(id!) !== name) continue
      files.push(path)
    }
  }
  const found = new Set(files.filter((path) => path.startsWith('frames/')).map((path) => path.split('/')[1]!))
  const missing = [...named.plates].filter((id) => !found.has(id))
  if (missing.length > 0) throw new BackupError(`The frames of ${missing.length} shots are missing. Run npm run doctor first. No backup was taken.`) // prettier-ignore
  return files
}

/**
 * Brings a backup back into an installation that has nothing yet.
 * @returns How many files. @throws BackupError in words, before anything is changed where that can be known.
 */
export async function restoreBackup(
  databaseUrl: string,
  dataDir: string,
  source: string,
  say: (words: string) => void,
): Promise<number> {
  const list = listSchema.safeParse(
    JSON.parse(await readFile(join(source, 'backup.json'), 'utf8').catch(() => 'null')),
  )
  if (!list.success) throw new BackupError(`${source} is no backup of Fillagrant. Nothing was changed.`)
  const paths = Object.keys(list.data.sha256)
  const stray = paths.find(
    (path) => !KEPT.some((part) => path.startsWith(`${part}/`)) || path.split('/').includes('..'),
  )
  if (stray !== undefined) throw new BackupError(`The backup names a file outside the store: ${stray}. Nothing was changed.`) // prettier-ignore
  await requireEmpty(databaseUrl)
  for (const [done, path] of paths.entries()) {
    const copy = join(dataDir, path)
    await mkdir(dirname(copy), { recursive: true })
    await copyFile(join(source, 'files', path), copy)
    if ((await digestOf(copy)) !== list.data.sha256[path]) throw new BackupError(`${path} is not as it was when the backup was taken. The database was not brought back; empty ${dataDir} and use another backup.`) // prettier-ignore
    if (done % 100 === 0) say(`\r${done} of ${paths.length} files`)
  }
  for (const part of KEPT) if (existsSync(join(dataDir, part))) await syncTree(join(dataDir, part))
  await run(postgresProgram('pg_restore'), ['--no-owner', '--exit-on-error', '--single-transaction', `--dbname=${databaseUrl}`, join(source, 'database.dump')]) // prettier-ignore
  const client = openDatabase(databaseUrl)
  // What was under way then has no files now.
  await client.db.execute(sql`update versions set state = 'failed', error = 'It was being made when the backup was taken. Make it again.' where state in ('waiting', 'rendering', 'assembling')`) // prettier-ignore
  await client.db.execute(sql`update imports set state = 'failed', error = 'It was on its way in when the backup was taken. Drop it again.' where state in ('uploading', 'waiting', 'decoding', 'damaged')`) // prettier-ignore
  // All else that was under way, such as a shot's motion, begins anew when the workers of then are found silent.
  await client.db.execute(sql`delete from graphile_worker._private_jobs where task_id in (select id from graphile_worker._private_tasks where identifier in ('import_plate', 'render_chunk', 'assemble_version'))`) // prettier-ignore
  await client.pool.end()
  return paths.length
}

async function requireEmpty(databaseUrl: string): Promise<void> {
  const client = openDatabase(databaseUrl)
  try {
    const found = await client.db.execute<{ name: string | null }>(
      sql`select to_regclass('public.shots')::text as name`,
    )
    if (found.rows[0]?.name) throw new BackupError('There is something in this database already. Restore into an installation that has never run: another FILLAGRANT_DATA. Nothing was changed.') // prettier-ignore
  } finally {
    await client.pool.end()
  }
}
