/** `npm run migrate [folder of the demo film]`: brings the configured database up to date, and the demo shot in. */
import { join, resolve } from 'node:path'
import { serverContext } from './context.server'
import { migrateDatabase } from './db/migrate.server'
import { askForMissingScenes } from './scenes.server'
import { ROOT } from './root.server'
import { seedDemo } from './seedDemo.server'

const context = serverContext()
await migrateDatabase(context.database, join(ROOT, 'server/db/migrations'))
const film = process.argv[2]
if (film) await seedDemo(context, resolve(film))
await askForMissingScenes(context.database.db)
await context.database.pool.end()
