/** Brings the database up to date: our tables, the queue's tables, the two productions. */
import { migrate } from 'drizzle-orm/node-postgres/migrator'
import { makeWorkerUtils } from 'graphile-worker'
import type { DatabaseClient } from './client.server'
import { productions } from './schema'

const MIGRATION_LOCK = 71_406_001 // any number that nothing else in this database locks

/** The shipped production, and the one that dropped footage goes to. */
export const DEMO_PRODUCTION_ID = 'lamplighters-moth'
export const OWN_PRODUCTION_ID = 'own'

/** Safe to run by several processes at once: one does it, the others wait. */
export async function migrateDatabase({ db, pool }: DatabaseClient, migrationsFolder: string): Promise<void> {
  const lock = await pool.connect()
  try {
    await lock.query('select pg_advisory_lock($1)', [MIGRATION_LOCK])
    await migrate(db, { migrationsFolder })
    const utils = await makeWorkerUtils({ pgPool: pool })
    await utils.migrate()
    await utils.release()
    await db
      .insert(productions)
      .values([
        { id: DEMO_PRODUCTION_ID, name: 'The Lamplighter’s Moth', isDemo: true },
        { id: OWN_PRODUCTION_ID, name: 'My production', isDemo: false },
      ])
      .onConflictDoNothing()
  } finally {
    await lock.query('select pg_advisory_unlock($1)', [MIGRATION_LOCK])
    lock.release()
  }
}
