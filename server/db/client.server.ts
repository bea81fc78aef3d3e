import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres'
import pg from 'pg'
import { readConfig } from '../config.server'
import { log } from '../log.server'
import * as schema from './schema'

export type Database = NodePgDatabase<typeof schema>
export type Transaction = Parameters<Parameters<Database['transaction']>[0]>[0]

export interface DatabaseClient {
  readonly db: Database
  readonly pool: pg.Pool
}

/** A pool of its own; who opens it ends it. */
export function openDatabase(connectionString: string): DatabaseClient {
  const pool = new pg.Pool({ connectionString, max: 10 })
  // A dropped idle connection is replaced on next use; without a listener it would end the process.
  pool.on('error', (cause) => log.warn({ err: cause }, 'a database connection was lost'))
  // So would one that is in use when the server ends; whoever uses it hears of it from the query.
  pool.on('connect', (client) => client.on('error', (cause) => log.warn({ err: cause }, 'a database connection broke'))) // prettier-ignore
  return { pool, db: drizzle(pool, { schema }) }
}

const ANSWER_MS = 2000

/** Whether the database answers now. */
export async function answers({ pool }: DatabaseClient): Promise<boolean> {
  let timer: NodeJS.Timeout | undefined
  const late = new Promise<false>((resolve) => (timer = setTimeout(() => resolve(false), ANSWER_MS)))
  const asked = pool.query('select 1').then(
    () => true,
    () => false,
  )
  return Promise.race([asked, late]).finally(() => clearTimeout(timer))
}

let shared: DatabaseClient | undefined

/** The process's own connection to the configured database. */
export function database(): DatabaseClient {
  shared ??= openDatabase(readConfig().databaseUrl)
  return shared
}
