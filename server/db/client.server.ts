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
  return { pool, db: drizzle(pool, { schema }) }
}

let shared: DatabaseClient | undefined

/** The process's own connection to the configured database. */
export function database(): DatabaseClient {
  shared ??= openDatabase(readConfig().databaseUrl)
  return shared
}
