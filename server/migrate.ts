/** `npm run migrate`: brings the configured database up to date. */
import { fileURLToPath } from 'node:url'
import { readConfig } from './config.server'
import { openDatabase } from './db/client.server'
import { migrateDatabase } from './db/migrate.server'

const client = openDatabase(readConfig().databaseUrl)
await migrateDatabase(client, fileURLToPath(new URL('./db/migrations', import.meta.url)))
await client.pool.end()
