/** A database and a data folder for one test file, with everything that a server process has. */
import { randomUUID } from 'node:crypto'
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import pg from 'pg'
import type { ServerContext } from '../../server/context.server'
import { contextOf } from '../../server/context.server'
import { openDatabase } from '../../server/db/client.server'
import { migrateDatabase } from '../../server/db/migrate.server'

export interface TestServer {
  readonly context: ServerContext
  readonly databaseUrl: string
  readonly dataDir: string
  /** Whether the database lets anybody in; while not, all that were in are put out. */
  letIn(isLetIn: boolean): Promise<void>
  close(): Promise<void>
}

/** @param isMigrated  Else the database is empty. */
export async function startTestServer({ isMigrated = true } = {}): Promise<TestServer> {
  const server = process.env['FILLAGRANT_TEST_SERVER']
  if (!server) throw new Error('FILLAGRANT_TEST_SERVER is not set: run the tests with npm run unit')
  const name = `t_${randomUUID().replaceAll('-', '')}`
  await asAdmin(server, `create database ${name}`)
  const databaseUrl = server.replace(/\/[^/]*$/, `/${name}`)
  const database = openDatabase(databaseUrl)
  if (isMigrated) await migrateDatabase(database, join(process.cwd(), 'server/db/migrations'))
  const dataDir = await mkdtemp(join(tmpdir(), 'fillagrant-data-'))
  return {
    context: contextOf(database, dataDir),
    databaseUrl,
    dataDir,
    async letIn(isLetIn) {
      await asAdmin(server, `alter database ${name} with allow_connections ${isLetIn}`)
      if (!isLetIn) await asAdmin(server, `select pg_terminate_backend(pid) from pg_stat_activity where datname = '${name}'`) // prettier-ignore
    },
    async close() {
      await database.pool.end()
      await asAdmin(server, `drop database ${name} with (force)`)
      await rm(dataDir, { recursive: true, force: true })
    },
  }
}

async function asAdmin(server: string, statement: string): Promise<void> {
  const client = new pg.Client({ connectionString: server })
  await client.connect()
  await client.query(statement)
  await client.end()
}
